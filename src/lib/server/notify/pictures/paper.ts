import { GlobalFonts } from '@napi-rs/canvas';
import { Chart } from 'chart.js';
import { createRequire } from 'node:module';
import type { Severity } from '$lib/core/alarm';

/** Of the day's chart: pictures are seen in mail programs and on paper, on white. */
export const paper = { ground: '#FBF8F0', ink: '#16202E', quiet: '#5A6472', line: '#D8CFBA', series: '#0B6FA4' };
export const severityColour: Readonly<Record<Severity, string>> = {
  warning: '#8A6D00',
  minor: '#B85C00',
  major: '#C0341D',
  critical: '#7E0F2B'
};
/** Pixels of a picture for each of its length. */
export const scale = 2;
/** The font of everything that is drawn; it is registered by this file. */
export const family = 'Atkinson Hyperlegible Next';

Chart.defaults.font = { ...Chart.defaults.font, family, size: 12 };
GlobalFonts.registerFromPath(
  createRequire(import.meta.url).resolve(
    '@fontsource-variable/atkinson-hyperlegible-next/files/atkinson-hyperlegible-next-latin-wght-normal.woff2'
  ),
  family
);

/** Paints the paper that a chart is drawn on. */
export function paintGround({ ctx, width, height }: Chart): void {
  ctx.save();
  ctx.fillStyle = paper.ground;
  ctx.fillRect(0, 0, width, height);
  ctx.restore();
}
