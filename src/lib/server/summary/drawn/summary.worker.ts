// Draws summaries in a thread of its own: the web server stays responsive meanwhile.
import type { Summary } from '$lib/core/summary';
import { drawDays } from './draw-days';
import type { DrawnSummary } from './drawn-summaries';
import { summaryPdf } from './summary-pdf';

export default async function draw({ name, summary }: { name: string; summary: Summary }): Promise<DrawnSummary> {
  const pictures = drawDays(summary);
  return { ...pictures, pdf: await summaryPdf(name, summary, pictures) };
}
