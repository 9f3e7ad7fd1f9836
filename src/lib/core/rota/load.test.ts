import { expect } from 'chai';
import { instantFromText } from '../time';
import { disturbedNights, hoursText, layerSentence, type Layer } from './index';

describe('the load of a rota', () => {
  it('is nights that were disturbed, each once, by the clocks of each person', () => {
    const at = (text: string) => instantFromText(text);
    const disturbances = [
      { personId: 1, at: at('2026-11-27T21:30:00Z') },
      { personId: 1, at: at('2026-11-28T02:10:00Z') }, // the same night in Rome
      { personId: 1, at: at('2026-11-28T06:00:00Z') }, // 07:00 there: the day
      { personId: 1, at: at('2026-11-28T23:00:00Z') },
      { personId: 2, at: at('2026-11-28T02:10:00Z') }, // the afternoon in Auckland
      { personId: 3, at: at('2026-10-25T05:30:00Z') } // 06:30 in Rome, though clocks were set back that night
    ];
    const nights = disturbedNights(disturbances, (id) => (id === 2 ? 'Pacific/Auckland' : 'Europe/Rome'));
    expect([...nights]).to.deep.equal([
      [1, 2],
      [3, 1]
    ]);
  });
});

describe('a rota in words', () => {
  const layer: Layer = {
    ...{ name: '', people: [1, 2], days: 7, from: '2026-11-23', until: null, at: '08:00', zone: null },
    hours: [{ weekdays: [1, 2, 3, 4, 5], from: '08:00', to: '20:00' }]
  };
  const nameOf = (id: number) => ['Nerea Olmo', 'Ivo Brandt'][id - 1] ?? '?';

  it('says who, in which turns, since when, and in which hours', () => {
    expect(layerSentence(layer, { zone: 'Europe/Rome' }, nameOf)).to.equal(
      'Nerea Olmo and Ivo Brandt in turn, 1 week each, from Mon 23 Nov 2026, handed over on Mondays at 08:00 in Europe/Rome, on weekdays from 08:00 to 20:00.'
    );
    expect(layerSentence({ ...layer, people: [1], hours: [], until: '2026-12-24' }, { zone: 'UTC' }, nameOf)).to.equal(
      'Nerea Olmo, from Mon 23 Nov 2026 until Thu 24 Dec 2026 in UTC.'
    );
  });

  it('names weekdays as people do', () => {
    const all = (weekdays: number[], from = '00:00', to = '00:00') => hoursText({ weekdays, from, to });
    expect([all([7, 6]), all([1, 2, 3, 4, 5, 6, 7], '20:00', '08:00'), all([5, 1, 3])]).to.deep.equal([
      'on weekends all day',
      'every day from 20:00 to 08:00',
      'on Mondays, Wednesdays and Fridays all day'
    ]);
  });
});
