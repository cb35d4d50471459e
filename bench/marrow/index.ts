// The foreign FPGA Marrow: no design is built for it in the product, which knows it by its BSDL file alone. It is loaded
// by SVF and gives its fabric one user register. docs/silicon.md, section 11
export { marrowBsdl } from './description.ts';
export { Marrow } from './device.ts';
export { sealed } from './envelope.ts';
export { FEED_BYTES, MARROW, MARROW_INSTRUCTION, MARROW_STATE } from './facts.ts';
