import { createCanvas } from '@napi-rs/canvas';
import { Chart, LinearScale, LineController, LineElement, PointElement, type ChartConfiguration } from 'chart.js';
import { severityBalls, type Severity } from '$lib/core/alarm';
import { limitText } from '$lib/core/units';
import { timeTicks, type Instant } from '$lib/core/time';
import { family, paintGround, paper, scale, severityColour } from './paper';

/** What a picture of the last hours shows. */
export interface PictureFacts {
  /** UCUM code of the values. */
  readonly unit: string;
  /** Start of the first cell and length of each, ms. */
  readonly start: number;
  readonly step: number;
  /** Values of the cells; null where there is none. */
  readonly values: readonly (number | null)[];
  readonly limits: readonly { readonly value: number; readonly severity: Severity }[];
  readonly raised: { readonly from: Instant; readonly to: Instant; readonly severity: Severity } | null;
  readonly zone: string;
}

const [width, height] = [560, 200];

Chart.register(LineController, LineElement, PointElement, LinearScale);

/**
 * Draws what was measured as a PNG of 1120 by 400 pixels: gaps stay gaps, limits are dashed, the raised period lies on the axis as ticks, as many as its severity has balls.
 *
 * @example drawPicture(facts).subarray(1, 4).toString() // 'PNG'
 */
export function drawPicture(facts: PictureFacts): Buffer {
  const { start, step, values, limits, unit, zone } = facts;
  const canvas = createCanvas(width, height);
  const end = start + step * values.length;
  const ticks = timeTicks({ from: start as Instant, to: end as Instant }, zone, 6);
  const limited = limits.map(({ value }) => value);
  const configuration: ChartConfiguration<'line'> = {
    type: 'line',
    data: {
      datasets: [
        {
          data: values.map((value, index) => ({ x: start + step * index, y: value as number })),
          borderColor: paper.series,
          borderWidth: 2,
          pointRadius: 0,
          spanGaps: false
        }
      ]
    },
    options: {
      responsive: false,
      animation: false,
      devicePixelRatio: scale,
      layout: { padding: { top: 12, right: 12, bottom: 4, left: 4 } },
      scales: {
        x: {
          type: 'linear',
          min: start,
          max: end,
          grid: { display: false },
          border: { color: paper.line },
          afterBuildTicks: (axis) => (axis.ticks = ticks.map(({ at, text }) => ({ value: at, label: text }))),
          ticks: { color: paper.quiet, maxRotation: 0, callback: (_value, index) => ticks[index]?.text ?? '' }
        },
        y: {
          grace: '5%',
          ...(limited.length > 0 && { suggestedMin: Math.min(...limited), suggestedMax: Math.max(...limited) }),
          grid: { color: paper.line },
          border: { display: false },
          ticks: { color: paper.quiet, maxTicksLimit: 5, callback: (value) => limitText(Number(value), unit) }
        }
      }
    },
    plugins: [{ id: 'chart paper', beforeDraw: paintGround, afterDatasetsDraw: (chart) => paintMarks(chart, facts) }]
  };
  const chart = new Chart(canvas as never, configuration);
  const png = canvas.toBuffer('image/png');
  chart.destroy();
  return png;
}

function paintMarks({ ctx, scales, chartArea }: Chart, { limits, raised, unit }: PictureFacts): void {
  const [x, y] = [scales['x'], scales['y']];
  if (!x || !y) return;
  ctx.save();
  ctx.font = `12px "${family}"`;
  for (const { value, severity } of limits) {
    const at = y.getPixelForValue(value);
    ctx.strokeStyle = ctx.fillStyle = severityColour[severity];
    ctx.lineWidth = 1.5;
    ctx.setLineDash([5, 4]);
    ctx.beginPath();
    ctx.moveTo(chartArea.left, at);
    ctx.lineTo(chartArea.right, at);
    ctx.stroke();
    ctx.fillText(`${limitText(value, unit)} ${severity}`, chartArea.left + 6, at - 5);
  }
  if (raised) {
    ctx.setLineDash([]);
    ctx.fillStyle = severityColour[raised.severity];
    const from = Math.max(chartArea.left, x.getPixelForValue(raised.from));
    const to = Math.min(chartArea.right, Math.max(x.getPixelForValue(raised.to), from + 4));
    for (let tick = 0; tick < severityBalls(raised.severity); tick++)
      ctx.fillRect(from, chartArea.bottom - 4 - tick * 5, to - from, 3);
  }
  ctx.restore();
}
