import { decode, type ReceivedCapture } from './decode.ts';

self.onmessage = ({ data }: MessageEvent<ReceivedCapture>) => self.postMessage(decode(data));
