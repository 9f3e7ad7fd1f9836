import type { ChartType, Plugin } from 'chart.js';
import { severityBalls } from '$lib/core/alarm';
import type { MarkFlag, RaisedTicks } from './picture';
import { themeColour } from './theme.svelte';

/** What is drawn over a chart, read afresh at every drawing. */
export interface Overlay {
  readonly raised: readonly RaisedTicks[];
  readonly marks: readonly MarkFlag[];
}

/** Draws the raised periods on the axis, and marks. */
export function overlayPlugin<Type extends ChartType>(read: () => Overlay): Plugin<Type> {
  return {
    id: 'overlay',
    afterDatasetsDraw({ ctx, chartArea: { left, right, top, bottom }, scales }) {
      const { raised, marks } = read();
      const x = scales['x'];
      if (!x) return;
      ctx.save();
      for (const { from, to, severity } of raised) {
        const begin = Math.max(left, x.getPixelForValue(from));
        const end = Math.min(right, to === null ? right : x.getPixelForValue(to));
        if (end < left || begin > right) continue;
        ctx.fillStyle = themeColour(`--${severity}`);
        for (let ball = 0; ball < severityBalls(severity); ball++)
          ctx.fillRect(begin, bottom - 3 - ball * 4, Math.max(3, end - begin), 3);
      }
      if (marks.length > 0) drawMarks(ctx, marks, { left, right, top, bottom }, (at) => x.getPixelForValue(at));
      ctx.restore();
    }
  };
}

interface Area {
  readonly left: number;
  readonly right: number;
  readonly top: number;
  readonly bottom: number;
}

/** Flags on poles; the text of one that would run into the next flag is cut short. */
function drawMarks(
  ctx: CanvasRenderingContext2D,
  marks: readonly MarkFlag[],
  { left, right, top, bottom }: Area,
  pixel: (at: number) => number
): void {
  const note = themeColour('--note');
  const quiet = themeColour('--quiet');
  ctx.font = "10.5px 'JetBrains Mono Variable', monospace";
  const shown = marks
    .map((mark) => ({ ...mark, x: pixel(mark.from), end: mark.to === null ? null : pixel(mark.to) }))
    .filter(({ x, end }) => x <= right && (end ?? x) >= left)
    .sort((a, b) => a.x - b.x);
  for (const [index, { x, end, text, isEvent = false }] of shown.entries()) {
    const pole = Math.round(Math.max(left, x));
    ctx.fillStyle = isEvent ? quiet : note;
    if (end !== null) {
      ctx.globalAlpha = 0.12;
      ctx.fillRect(pole, top, Math.min(right, end) - pole, bottom - top);
      ctx.globalAlpha = 1;
    }
    ctx.fillRect(pole, isEvent ? bottom - 10 : top, 1, isEvent ? 10 : bottom - top);
    if (isEvent) continue; // a short pole; the marks panel has its words
    ctx.beginPath();
    ctx.moveTo(pole + 1, top);
    ctx.lineTo(pole + 8, top + 4);
    ctx.lineTo(pole + 1, top + 8);
    ctx.fill();
    const room = Math.min(right, shown[index + 1]?.x ?? right) - pole - 14;
    const fitting = Math.floor(room / 6.4);
    if (fitting >= 4) ctx.fillText(text.length > fitting ? `${text.slice(0, fitting - 1)}…` : text, pole + 11, top + 8);
  }
}
