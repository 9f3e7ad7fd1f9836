import { expect } from 'chai';
import fc from 'fast-check';
import type { AnswerSeries, QueryAnswer } from '$lib/core/series';
import { duration, gridOver, instant, instantFromText, range, type Grid } from '$lib/core/time';
import { tableOf } from '../../bench/as-table';
import { cellOfInstant, hues, startOfCell } from '../../chart/picture';
import { pictureOf } from './picture-of';

const series = (id: number, resourceId: number, values: readonly (number | null)[] = []): AnswerSeries => ({
  id,
  seriesId: id > 0 ? id : null,
  row: 'a',
  name: `series ${id}`,
  labels: {},
  account: '',
  region: '',
  resource: '',
  resourceId,
  newest: instant(60_000),
  complete: values.length,
  values
});
const answerOf = (all: readonly AnswerSeries[], grid: Grid): QueryAnswer => ({
  now: instant(0),
  ...grid,
  complete: grid.count,
  partial: null,
  rows: [{ name: 'a', unit: '%' }],
  series: all,
  notes: [],
  effort: { series: all.length, points: 0, resolution: 0, milliseconds: 0 }
});
const minutes: Grid = { start: instant(0), step: duration(60_000), count: 2 };
const lookOf = ({ hue, dashed }: { hue: number; dashed: boolean }) => `${hue} ${dashed}`;

describe('the picture of an answer', () => {
  it('draws no two series alike while a look is free, and a resource always the same', () => {
    const ids = fc.uniqueArray(fc.record({ id: fc.integer({ min: -1000, max: 1000 }), resource: fc.nat(40) }), {
      selector: ({ id }) => id,
      minLength: 1,
      maxLength: 2 * hues
    });
    fc.assert(
      fc.property(ids, (list) => {
        const all = list.map(({ id, resource }) => series(id, resource));
        const { lines } = pictureOf(answerOf(all, minutes), range(instant(0), instant(120_000)));
        expect(new Set(lines.map(lookOf)).size).to.equal(lines.length);
        expect(lines.every(({ hue }) => hue >= 1 && hue <= hues)).to.equal(true);
        // Dashes come only when the hues are used up.
        expect(lines.filter(({ dashed }) => dashed).length).to.equal(Math.max(0, lines.length - hues));
      })
    );
    const alone = (id: number, resource: number) =>
      pictureOf(answerOf([series(id, resource)], minutes), range(instant(0), instant(1))).lines.map(lookOf);
    expect(alone(17, 4)).to.deep.equal(alone(900, 4));
  });

  it('gives outcomes of one thing hues of their own, not only another stroke', () => {
    fc.assert(
      fc.property(
        fc.uniqueArray(fc.integer({ min: -2_000_000_000, max: -1 }), { minLength: 2, maxLength: hues }),
        (ids) => {
          const { lines } = pictureOf(
            answerOf(
              ids.map((id) => series(id, 0)),
              minutes
            ),
            range(instant(0), instant(120_000))
          );
          expect(new Set(lines.map(({ hue }) => hue)).size).to.equal(ids.length);
        }
      )
    );
  });

  it('has gaps where nothing is, the digits of the signal, and how many cells are complete', () => {
    const answer = answerOf([series(1, 1, [1.5, null])], minutes);
    const picture = pictureOf(answer, range(instant(0), instant(120_000)), 2);
    expect([...(picture.lines[0]?.values ?? [])]).to.deep.equal([1.5, NaN]);
    expect([picture.unit, picture.digits]).to.deep.equal(['%', 2]);
    const half = { ...answer, series: answer.series.map((one) => ({ ...one, complete: 1 })) };
    expect(pictureOf(half, range(instant(0), instant(120_000))).lines.map(({ complete }) => complete)).to.deep.equal([
      1
    ]);
  });

  it('of days knows where each begins and which one holds an instant, also where clocks are changed', () => {
    const noon = instantFromText('2026-03-28T12:00:00Z');
    const days = gridOver(range(noon, instant(noon + 2 * 86_400_000)), duration(86_400_000), 'Europe/Berlin');
    const picture = pictureOf(answerOf([series(1, 1, [1, 2, 3])], days), range(noon, noon));
    const starts = [0, 1, 2, 3].map((cell) => new Date(startOfCell(picture, cell)).toISOString().slice(5, 13));
    expect(starts).to.deep.equal(['03-27T23', '03-28T23', '03-29T22', '03-30T22']);
    expect(cellOfInstant(picture, instantFromText('2026-03-29T21:59:59Z'))).to.equal(1);
    expect(cellOfInstant(picture, instantFromText('2026-03-29T22:00:00Z'))).to.equal(2);
  });
});

describe('an answer as a table', () => {
  it('has a column for each series, people’s times, gaps empty, and nothing that a spreadsheet would run', () => {
    const bad = { ...series(2, 0, [3, 4]), name: '=cmd|x\ty' };
    const text = tableOf(answerOf([series(1, 1, [1.5, null]), bad], minutes), 'Europe/Berlin');
    expect(text.split('\n')).to.deep.equal([
      "time\tseries 1\t'=cmd|x y",
      '1970-01-01 01:00:00 +01:00\t1.5\t3',
      '1970-01-01 01:01:00 +01:00\t\t4'
    ]);
  });

  it('of days says each day’s own beginning', () => {
    const noon = instantFromText('2026-03-29T12:00:00Z');
    const days = gridOver(range(noon, instant(noon + 86_400_000)), duration(86_400_000), 'Europe/Berlin');
    const lines = tableOf(answerOf([series(1, 1, [1, 2])], days), 'Europe/Berlin').split('\n');
    expect(lines.slice(1)).to.deep.equal(['2026-03-29 00:00:00 +01:00\t1', '2026-03-30 00:00:00 +02:00\t2']);
  });
});
