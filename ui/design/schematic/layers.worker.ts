// Large drawings get their places away from the page's own thread.
import { placeInLayers } from './layers.ts';

self.onmessage = ({ data }: MessageEvent<Parameters<typeof placeInLayers>[0]>) => self.postMessage(placeInLayers(data));
