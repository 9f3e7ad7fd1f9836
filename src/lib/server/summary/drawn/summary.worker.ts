// Draws summaries in a thread of its own: the web server stays responsive meanwhile.
import type { Summary } from '$lib/core/summary';
import { drawDays, type SummaryPictures } from './draw-days';
import { summaryPdf } from './summary-pdf';

/** The pictures of a summary. */
export default (summary: Summary): SummaryPictures => drawDays(summary);

/** A summary as a PDF. */
export const pdf = ({ name, summary }: { name: string; summary: Summary }): Promise<Buffer> =>
  summaryPdf(name, summary, drawDays(summary));
