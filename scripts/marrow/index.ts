// What the maker of the invented Marrow would sell: from Verilog to an SVF file that only a Marrow can open. Stands in
// for a maker's tools; the product neither uses nor reads it.
export { marrowSvf } from './make.ts';
