import { signalsOf, followedBy, type Panel, type Picker } from '$lib/core/board';
import { hasGaps, waitedFor, type QueryAnswer } from '$lib/core/series';
import { fixedStepOf, type Signal } from '$lib/core/signal';
import { duration, saysRange, spokenDuration } from '$lib/core/time';
import { earlierOf } from '../data/panel-queries';
import { labelsOf, type BoardContext } from '../data/board-context.svelte';
import type { PanelView } from '../data/panel-view.svelte';
import { spokenRange } from './opening-ranges';

/** Whether a panel draws values over time. */
export const isOverTime = ({ picture }: Pick<Panel, 'picture'>): boolean =>
  ['lines', 'areas', 'stacked', 'bars'].includes(picture);

/**
 * What a panel's picture would otherwise hide, in words: that it is partial, coarser than requested, with gaps, compared, or of another range than the board.
 *
 * @param signal of the panel as it is shown now
 * @param search of the address
 * @example notesOf(panel, signal, answer, view, context, search) // ['3 of 12 have gaps', 'unlinked']
 */
export function notesOf(
  panel: Panel,
  signal: Signal,
  answer: QueryAnswer,
  view: Pick<PanelView, 'earlier' | 'unlinked'>,
  context: Pick<BoardContext, 'earlier'>,
  search: URLSearchParams
): string[] {
  const notes: string[] = [];
  const waited = waitedFor(answer);
  if (waited) notes.push(`newest: ${waited.missing} of ${waited.of} series not there yet`);
  const hasCells = isOverTime(panel) || panel.picture === 'heat' || panel.picture === 'table';
  if (hasCells && answer.step > (fixedStepOf(signal) ?? 60_000))
    notes.push(`a point each ${spokenDuration(duration(answer.step))}`);
  if (hasCells) {
    const gaps = answer.series.filter((series) => hasGaps(series, series.complete - 1)).length;
    if (gaps > 0) notes.push(`${gaps} of ${answer.series.length} have gaps`);
  }
  if (isOverTime(panel)) {
    const own = 'earlier' in panel ? panel.earlier : undefined;
    const shift = earlierOf(own, view.earlier === undefined ? context.earlier : view.earlier);
    if (shift !== null) notes.push(`dotted: ${spokenDuration(shift)} earlier`);
  }
  if (view.unlinked) notes.push('unlinked');
  else if (panel.range !== undefined && !saysRange(search)) notes.push(spokenRange(panel.range));
  return notes;
}

/** The pickers that a panel follows. */
export const followedPickers = (
  panel: Panel,
  { pickers, metrics }: Pick<BoardContext, 'pickers' | 'metrics'>
): Picker[] =>
  pickers.filter((picker) =>
    signalsOf(panel).some(
      (signal) => followedBy(signal, [picker], panel.ignores ?? [], (metric) => labelsOf(metrics, metric)).length > 0
    )
  );
