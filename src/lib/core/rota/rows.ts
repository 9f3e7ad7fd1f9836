import type { Range } from '../time';
import { hoursText } from './sentence';
import type { Override, Rota } from './rota';
import { shiftsIn, type Shift } from './shifts';

/** A span of a row of the calendar. */
export interface CalendarSpan extends Range {
  readonly personId: number | null;
  /** A turn of the layer, a span that somebody took over, or one in which nobody has the watch. */
  readonly kind: 'turn' | 'override' | 'gap';
}

/** A row of the calendar: the turns of one layer, with what counts more than they do. */
export interface CalendarRow {
  readonly rotaId: number;
  readonly layer: number;
  readonly title: string;
  /** When it has the watch, in words. */
  readonly hours: string;
  readonly spans: readonly CalendarSpan[];
}

/**
 * The rows of a calendar: one for each layer of each rota. The turns of a layer are drawn whole, whatever its hours are; spans that were taken over lie in the row of the layer that would have had them, those without
 * anybody in the first row of their rota.
 *
 * @example calendarRows([{ id: 3, rota, overrides: [] }], week)[0].title // 'Data, days'
 */
export function calendarRows(
  rotas: readonly { readonly id: number; readonly rota: Rota; readonly overrides: readonly Override[] }[],
  within: Range
): CalendarRow[] {
  return rotas.flatMap(({ id, rota, overrides }) => {
    const actual = shiftsIn(rota, overrides, within);
    const rows = rota.layers.map((layer, position): CalendarRow => {
      const turns = shiftsIn({ ...rota, layers: [{ ...layer, hours: [] }] }, [], within);
      return {
        ...{ rotaId: id, layer: position },
        title: layer.name === '' ? rota.name : `${rota.name}, ${layer.name}`,
        hours: layer.hours.length === 0 ? 'always' : layer.hours.map(hoursText).join(', '),
        spans: turns.filter(({ personId }) => personId !== null).map((turn) => ({ ...plain(turn), kind: 'turn' }))
      };
    });
    const added = actual.flatMap((shift): { row: number; span: CalendarSpan }[] => {
      if (shift.source.kind === 'override')
        return [{ row: rowOf(rota, shift), span: { ...plain(shift), kind: 'override' } }];
      return shift.personId === null ? [{ row: 0, span: { ...plain(shift), kind: 'gap' } }] : [];
    });
    return rows.map((row, position) => ({
      ...row,
      spans: [...row.spans, ...added.filter((one) => one.row === position).map(({ span }) => span)]
    }));
  });
}

const plain = ({ from, to, personId }: Shift) => ({ from, to, personId });

/** The layer that would have the watch when a span begins: the last of several. */
function rowOf(rota: Rota, { from }: Range): number {
  const [first] = shiftsIn(rota, [], { from, to: (from + 1) as Range['to'] });
  return first?.source.kind === 'layer' ? first.source.layer : 0;
}
