import { expect } from 'chai';
import fc from 'fast-check';
import { fridayEvenings, failedNights, lastRestart, replicationStall } from '../world/troubles';
import { events } from './events';
import { valueOf } from './numbers';
import { clientOf, issueToken, tokenSeconds } from './tokens';
import { clients, measures, things } from './world';

const hour = 3_600_000;
const start = Date.parse('2026-05-04T01:00:00Z');
const world = { seed: 1, start, stresses: [] };
const named = (title: string, measure: string) => {
  const thing = things.find((one) => one.title === title)!;
  return { thing, measure: measures.find((one) => one.kind === thing.kind && one.measure === measure)! };
};
const at = (title: string, measure: string, moment: number, dimension = '') => {
  const found = named(title, measure);
  const every = found.measure.everySeconds * 1000;
  return valueOf(world, found.thing, found.measure, dimension, Math.floor(moment / every) * every)!;
};

describe('the numbers of Ostro', () => {
  it('are a pure function of seed, series and time; shares stay below 100 and nothing is negative', () => {
    const pair = fc.constantFrom(
      ...things.flatMap((thing) =>
        measures.filter(({ kind }) => kind === thing.kind).map((measure) => ({ thing, measure }))
      )
    );
    fc.assert(
      fc.property(pair, fc.nat(14 * 24 * 60), ({ thing, measure }, minute) => {
        const every = measure.everySeconds * 1000;
        const moment = Math.floor((start - minute * 60_000) / every) * every;
        const value = valueOf(world, thing, measure, measure.dimension?.values[0] ?? '', moment)!;
        expect(value).to.equal(valueOf(world, thing, measure, measure.dimension?.values[0] ?? '', moment));
        expect(value).to.be.at.least(0);
        if (measure.unit === '%') expect(value).to.be.at.most(100);
      })
    );
  });

  it('running totals rise, but for the moment they begin again', () => {
    const { thing, measure } = named('ticket-images', 'requests');
    let falls = 0;
    for (let minute = 1; minute < 15 * 1440; minute++) {
      const [before, now] = [minute - 1, minute].map((m) =>
        valueOf(world, thing, measure, '', start - (15 * 1440 - m) * 60_000)!
      );
      if (now! < before!) falls++;
    }
    expect(falls).to.be.within(1, 2);
  });

  it('have the planted troubles at their times', () => {
    const stall = replicationStall(start);
    expect(at('dorsale-standby', 'lag', stall.until - 60_000)).to.be.above(15_000);
    expect(at('dorsale-standby', 'lag', stall.from - 60_000)).to.be.below(20);
    expect(at('dorsale-standby', 'backlog', stall.until - 60_000)).to.be.above(2e9);
    expect(events(start, start).map(({ kind }) => kind)).to.include.members(['stalled', 'resumed', 'run failed']);
    for (const night of failedNights(start)) {
      expect(at('nightly-tariff-load', 'runs', night, 'failed')).to.equal(1);
      expect(at('nightly-tariff-load', 'runs', night, 'succeeded')).to.equal(0);
      expect(at('nightly-tariff-load', 'errors', night, 'source timed out')).to.be.above(
        10 * at('nightly-tariff-load', 'errors', night, 'bad record')
      );
    }
    const before = failedNights(start)[0]! - 24 * hour;
    expect(at('nightly-tariff-load', 'runs', before, 'succeeded')).to.equal(1);
    expect(at('manifest-archive', 'cost', start - hour)).to.be.above(
      1.6 * at('manifest-archive', 'cost', start - 6 * 24 * hour)
    );
  });

  it('two Friday evenings lie before the start, whatever day it is', () => {
    fc.assert(
      fc.property(fc.integer({ min: 0, max: 60 * 24 }), (hours) => {
        const begin = start + hours * hour;
        const evenings = fridayEvenings(begin);
        expect(evenings).to.have.length(2);
        for (const [from, to] of evenings) {
          expect(new Date(from).getUTCDay()).to.equal(5);
          expect(to)
            .to.be.at.most(begin)
            .and.at.least(begin - 15 * 24 * hour);
        }
      })
    );
  });

  it('a restart lies at or before its moment, and the one before it earlier', () => {
    fc.assert(
      fc.property(fc.integer(), fc.integer({ min: 0, max: 400 * 24 * 60 }), (key, minute) => {
        const moment = start + minute * 60_000;
        const last = lastRestart(key, moment);
        expect(last)
          .to.be.at.most(moment)
          .and.above(moment - 12 * hour);
        expect(lastRestart(key, last - 1)).to.be.below(last);
        expect(lastRestart(key, last)).to.equal(last);
      })
    );
  });
});

describe('a token of Ostro', () => {
  it('is good for its client until it runs out, and not when it was changed', () => {
    const [client] = clients;
    const token = issueToken(client!, start);
    expect(clientOf(`Bearer ${token}`, start + 1)?.id).to.equal(client!.id);
    expect(clientOf(`Bearer ${token}`, start + tokenSeconds * 1000)).to.equal(null);
    expect(clientOf(`Bearer x${token}`, start)).to.equal(null);
    expect(clientOf('Bearer', start)).to.equal(null);
    expect(clientOf(undefined, start)).to.equal(null);
  });
});
