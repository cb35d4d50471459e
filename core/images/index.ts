// Memory images as files: Intel HEX, S-record, plain bytes and containers given from outside. Reads, writes, shifts and compares them; knows
// nothing of what a memory does with its contents.
export { flatBytes, IMAGE_FORMATS, type ImageFormat, type ImageProblem, type ImageReading, imageCrc, imageEnd, imageOf, type MemoryImage, type Segment } from './image.ts';
export { type Container, detectFormat, formatOfName, readImage, writeImage } from './files.ts';
export { composeImages, type Composed, type Layout, type PlacedBlock, readLayout } from './layout.ts';
export { bitReversed, compareImages, type Difference, shifted } from './change.ts';
