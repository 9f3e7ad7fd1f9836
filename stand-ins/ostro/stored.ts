import { textHash, unitNoise } from '../world/noise';
import { doublingStore } from '../world/troubles';
import type { OstroThing } from './world';

/** What a gigabyte costs that is stored for a day, in Swiss francs, and how many euro one of these is taken for. */
export const storedPrice = 0.02;
export const euroOfFranc = 1.05;

/** What a store holds on an ordinary day, in gigabytes, before it doubles. */
export const storedGigabytes = ({ uri, title }: OstroThing): number =>
  title === doublingStore(0).name ? 4150 : 250 + 1050 * unitNoise(textHash(uri), 1);
