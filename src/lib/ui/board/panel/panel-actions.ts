import type { Panel } from '$lib/core/board';
import type { Signal } from '$lib/core/signal';
import { textFromInstant, type Range } from '$lib/core/time';
import { callApi, callForCsv, wordsOf } from '../../api';

/** Copies the numbers of a signal over a range as CSV. @param cells that the picture has; as many as suit the range when it is not over time */
export async function copyCsv(signal: Signal, range: Range, zone: string, cells: number | undefined): Promise<void> {
  const reply = await callForCsv('/query', {
    signal,
    from: textFromInstant(range.from),
    to: textFromInstant(range.to),
    zone,
    ...(cells === undefined ? {} : { cells })
  });
  if (reply.kind === 'refused') throw new Error(wordsOf(reply.problem));
  if (reply.kind === 'answered') await navigator.clipboard.writeText(reply.answer);
}

/** Saves a panel's element as a PNG of that name, without its buttons. */
export async function savePng(node: HTMLElement, title: string): Promise<void> {
  const { toPng } = await import('html-to-image');
  const url = await toPng(node, {
    pixelRatio: 2,
    filter: (part) => !(part instanceof HTMLElement && part.dataset['chrome'] !== undefined)
  });
  const link = document.createElement('a');
  link.href = url;
  link.download = `${title.replace(/[^\p{L}\p{N} _-]/gu, '').trim() || 'panel'}.png`;
  link.click();
}

/** Adds a panel to another board. */
export async function addToBoard(board: number, panel: Panel): Promise<void> {
  const reply = await callApi('POST', `/boards/${board}/panels`, { body: { panel } });
  if (reply.kind === 'refused') throw new Error(wordsOf(reply.problem));
}
