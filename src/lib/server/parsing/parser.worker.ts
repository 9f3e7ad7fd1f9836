import { Refusal, type Problem, problemOf } from '$lib/core/problem/problem';
// Reads what other programs and people send, in a thread of its own: whatever it is, the web server stays responsive.
import { move, transferableSymbol, valueSymbol } from 'piscina';
import type { ReadAlarmFile } from '$lib/core/alarm/file';
import type { ReadBoardFile } from '$lib/core/board/file';
import type { ArrivedEvents } from '$lib/core/events';
import { readAgreementFile, type ReadAgreementFile } from '$lib/core/agreements';
import { readOnCallFile, type ReadOnCallFile } from '$lib/core/notify/on-call-file';
import { readCalendar, type ReadCalendar } from '$lib/core/rota';
import type { ReadPage } from '$lib/core/targets';
import type { Range } from '$lib/core/time';
import { packReceived, type PackedReceived } from './packed';
import {
  alarmFile,
  boardFile,
  receive,
  receiveEvents,
  receiveLines,
  type EventsTask,
  readTargetPage,
  type LinesTask,
  type PageTask,
  type ReceivedLines,
  type ReceiveTask
} from './tasks';

export type ParserTask =
  | { readonly kind: 'receive'; readonly task: ReceiveTask }
  | { readonly kind: 'page'; readonly task: PageTask }
  | { readonly kind: 'lines'; readonly task: LinesTask }
  | { readonly kind: 'events'; readonly task: EventsTask }
  | { readonly kind: 'board file'; readonly text: string }
  | { readonly kind: 'alarm file'; readonly text: string }
  | { readonly kind: 'on-call file'; readonly text: string }
  | { readonly kind: 'agreement file'; readonly text: string }
  | { readonly kind: 'calendar'; readonly text: string; readonly within: Range; readonly zone: string };

/** What a page gave, as it crosses a thread's border. */
export type PackedPage = PackedReceived & Pick<ReadPage, 'samples' | 'leftOut'>;

export type ParserResult =
  | { readonly kind: 'received'; readonly received: PackedReceived }
  | { readonly kind: 'page'; readonly page: PackedPage }
  | { readonly kind: 'lines'; readonly received: ReceivedLines }
  | { readonly kind: 'events'; readonly received: ArrivedEvents }
  | { readonly kind: 'board file'; readonly file: ReadBoardFile }
  | { readonly kind: 'alarm file'; readonly file: ReadAlarmFile }
  | { readonly kind: 'on-call file'; readonly file: ReadOnCallFile }
  | { readonly kind: 'agreement file'; readonly file: ReadAgreementFile }
  | { readonly kind: 'calendar'; readonly calendar: ReadCalendar }
  | { readonly kind: 'refused'; readonly problem: Problem };

export default function read(asked: ParserTask): unknown {
  if (asked.kind === 'board file') return { kind: 'board file', file: boardFile(asked.text) } satisfies ParserResult;
  if (asked.kind === 'alarm file') return { kind: 'alarm file', file: alarmFile(asked.text) } satisfies ParserResult;
  if (asked.kind === 'agreement file')
    return { kind: 'agreement file', file: readAgreementFile(asked.text) } satisfies ParserResult;
  if (asked.kind === 'on-call file')
    return { kind: 'on-call file', file: readOnCallFile(asked.text) } satisfies ParserResult;
  if (asked.kind === 'calendar')
    return {
      kind: 'calendar',
      calendar: readCalendar(asked.text, asked.within, asked.zone)
    } satisfies ParserResult;
  try {
    if (asked.kind === 'events') return { kind: 'events', received: receiveEvents(asked.task) } satisfies ParserResult;
    if (asked.kind === 'lines') {
      const received = receiveLines(asked.task);
      const buffers = received.batches.map(({ batch }) => batch.buffer);
      return move(handedOver({ kind: 'lines', received }, buffers) as never);
    }
    if (asked.kind === 'page') {
      const page = { ...readTargetPage(asked.task) };
      const packed: PackedPage = { ...packReceived(page), samples: page.samples, leftOut: page.leftOut };
      return move(handedOver({ kind: 'page', page: packed }, [packed.numbers.buffer as ArrayBuffer]) as never);
    }
    const received = packReceived(receive(asked.task));
    return move(handedOver({ kind: 'received', received }, [received.numbers.buffer as ArrayBuffer]) as never);
  } catch (error) {
    if (!(error instanceof Refusal)) throw error;
    return { kind: 'refused', problem: problemOf(error) } satisfies ParserResult;
  }
}

/** A value whose buffers are handed over instead of copied. */
const handedOver = (value: ParserResult, buffers: readonly ArrayBuffer[]): object => ({
  [transferableSymbol]: buffers,
  [valueSymbol]: value
});
