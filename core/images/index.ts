// Memory images as files: Intel HEX, S-record, plain bytes and containers given from outside. Reads, writes, shifts and
// compares them; knows nothing of what a memory does with its contents.
export {
  boardData,
  boardRows,
  type ByteOrder,
  type DataField,
  type DataValues,
  dataBytes,
  FIELD_TYPES,
} from './board-data.ts';
export {
  flatBytes,
  IMAGE_FORMATS,
  type ImageFormat,
  type ImageProblem,
  type ImageReading,
  imageCrc,
  imageEnd,
  imageOf,
  type MemoryImage,
  type Segment,
} from './image.ts';
export { type Container, detectFormat, formatOfName, readImage, writeImage } from './files.ts';
export {
  BLOCK_ROLES,
  composeImages,
  type Composed,
  type Layout,
  type LayoutBlock,
  readLayout,
  writtenOut,
} from './layout.ts';
export { checkPlaces, type Place, type PlaceProblem } from './places.ts';
export { bitReversed, bytesSwapped, compareImages, type Difference, shifted } from './change.ts';
