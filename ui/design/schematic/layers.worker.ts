// Large drawings get their places away from the page's own thread.
import { expose } from 'comlink';
import { placeInLayers } from './layers.ts';

expose({ placeInLayers });
