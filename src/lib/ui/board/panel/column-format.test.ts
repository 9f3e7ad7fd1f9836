import { expect } from 'chai';
import { plainSignal } from '$lib/core/signal';
import { instantFromText, type Instant } from '$lib/core/time';
import { columnFormat } from './column-format';

const now = instantFromText('2026-05-04T12:00:00Z');
const format = (more: object, code = 'By', figures: readonly number[] = [1536, 10 * 1024]) => {
  const signal = {
    ...plainSignal({ metric: 'm', statistic: 'avg' }),
    ...('digits' in more ? { digits: more.digits as number } : {})
  };
  const { digits: _, ...rest } = more as { digits?: number };
  const column = { title: 'x', signal, reduce: 'last' as const, show: 'number' as const, ...rest };
  return columnFormat(column, code, figures, (at: Instant) => ({ at, now, zone: 'UTC' }));
};

describe('how a column is written', () => {
  it('is on one scale for all its rows, with the digits of its signal', () => {
    const scaled = format({});
    expect([scaled.unit, scaled.written(1536), scaled.written(512)]).to.deep.equal(['KiB', '1.5', '0.5']);
    expect(format({ digits: 2 }).written(1536)).to.equal('1.50');
  });

  it('has bare numbers where they are wanted', () => {
    const plain = format({ plain: true });
    expect([plain.unit, plain.written(1536)]).to.deep.equal(['', '1,536']);
  });

  it('takes numbers for instants: seconds, or milliseconds by their unit', () => {
    const at = instantFromText('2026-05-04T10:30:00Z');
    const forms = ['ago', 'day', 'moment', 'exact'] as const;
    expect(forms.map((date) => format({ show: 'date', date }, 's').written(at / 1000))).to.deep.equal([
      '1 h 30 min ago',
      'Mon 4 May 2026',
      '10:30',
      '2026-05-04 10:30:00 +00:00'
    ]);
    expect(format({ show: 'date' }, 'ms').written(at)).to.equal('1 h 30 min ago');
    expect(format({ show: 'date' }, 's').written(at / 1000 + 7200)).to.equal('in 30 min');
    for (const none of [NaN, 1e20]) expect(format({ show: 'date' }, 's').written(none)).to.equal('no date');
  });

  it('shades within the bounds of the unit, or from zero to the largest', () => {
    expect([
      format({}, '%', [20]).part(50),
      format({}, 'By', [0, 8]).part(2),
      format({}, 'By', []).part(1)
    ]).to.deep.equal([0.5, 0.25, 0]);
  });
});
