// Memory images as files: Intel HEX, S-record, plain bytes and containers given from outside. Reads, writes, shifts and
// compares them; knows nothing of what a memory does with its contents.
export { boardData, boardRows, type DataField, type DataValues, dataBytes, FIELD_TYPES } from './board-data.ts';
export {
  flatBytes,
  IMAGE_FORMATS,
  type ImageFormat,
  type ImageReading,
  imageCrc,
  imageEnd,
  imageOf,
  type MemoryImage,
} from './image.ts';
export type { Container } from './format.ts';
export { formatOfName, readImage, writeImage } from './files.ts';
export { BLOCK_ROLES, composeImages, type Layout, type LayoutBlock, readLayout, writtenOut } from './layout.ts';
export { checkPlaces, type Place, type PlaceProblem } from './places.ts';
export { bitReversed, bytesSwapped, compareImages, countDifferent, shifted } from './change.ts';
