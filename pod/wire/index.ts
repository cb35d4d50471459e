// A microcontroller on a serial line that moves a cable's pins: the host's end of the wire (docs/wire.md). Its firmware
// is in pod/firmware; knows no board, and nobody who uses the pod.
export { openSerial } from './serial.ts';
export { wireTarget } from './target.ts';
