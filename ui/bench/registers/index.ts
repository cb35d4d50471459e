// One instruction and one register of one device by hand, what came, and the descriptions that are kept.
export { RegistersView } from './view.tsx';
