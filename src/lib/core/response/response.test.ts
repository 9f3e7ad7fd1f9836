import { expect } from 'chai';
import fc from 'fast-check';
import {
  actionSchema,
  actionText,
  countAfter,
  failuresOnEnd,
  gravelySince,
  heldBackBy,
  isDangerous,
  mayAtOnce,
  responseSchema,
  responseSentence,
  runText,
  usualLimits,
  whyNot,
  type Abilities,
  type ResponseLimits,
  type Run
} from './index';
import { after, hour, instant, instantFromText, minute, times, type Instant } from '../time';

const now = instantFromText('2026-05-04T03:10:00Z');
const machine: Abilities = {
  ...{ kinds: ['restart', 'stop', 'start', 'size'], isStopped: false, count: null },
  size: { now: 'medium', choices: ['small', 'medium', 'large'] }
};
const group: Abilities = { kinds: ['count'], isStopped: false, size: null, count: { now: 4, least: 1, most: 12 } };

describe('what can be done with a resource', () => {
  it('is what its provider says, and nothing that is so already', () => {
    expect(whyNot({ kind: 'restart' }, machine)).to.equal(null);
    expect(whyNot({ kind: 'start' }, machine)).to.equal('It is running.');
    expect(whyNot({ kind: 'stop' }, { ...machine, isStopped: true })).to.equal('It is stopped already.');
    expect(whyNot({ kind: 'start' }, { ...machine, isStopped: true })).to.equal(null);
    expect(whyNot({ kind: 'size', size: 'vast' }, machine)).to.equal('There is no size vast.');
    expect(whyNot({ kind: 'size', size: 'medium' }, machine)).to.equal('Its size is medium already.');
    expect(whyNot({ kind: 'count', to: 13 }, group)).to.equal('Its count is between 1 and 12.');
    expect(whyNot({ kind: 'count', to: 4 }, group)).to.equal('Its count is 4 already.');
    expect(whyNot({ kind: 'restart' }, group)).to.equal('Its provider cannot do this with it.');
  });

  it('has to be confirmed by name where something stops, changes its size or becomes fewer', () => {
    expect(isDangerous({ kind: 'restart' }, machine)).to.equal(false);
    expect(isDangerous({ kind: 'stop' }, machine)).to.equal(true);
    expect(isDangerous({ kind: 'size', size: 'large' }, machine)).to.equal(true);
    expect([3, 5].map((to) => isDangerous({ kind: 'count', to }, group))).to.deep.equal([true, false]);
  });

  it('changes a count by as much as there is room for, and never the other way', () => {
    fc.assert(
      fc.property(
        fc.integer({ min: -100, max: 100 }).filter((by) => by !== 0),
        fc.nat(50),
        fc.nat(20),
        fc.nat(20),
        fc.nat(20),
        (by, limit, least, more, now) => {
          const counted = { least, most: least + more, now: least + Math.min(now, more) };
          const to = countAfter({ kind: 'more', by, limit }, counted);
          if (to === null) return;
          expect(Math.sign(to - counted.now)).to.equal(Math.sign(by));
          expect(Math.abs(to - counted.now)).to.be.at.most(Math.abs(by));
          expect(to).to.be.within(counted.least, counted.most);
          if (by > 0) expect(to).to.be.at.most(limit);
          else expect(to).to.be.at.least(limit);
        }
      )
    );
    expect(countAfter({ kind: 'more', by: 2, limit: 5 }, group.count as never)).to.equal(5);
    expect(countAfter({ kind: 'more', by: 1, limit: 4 }, group.count as never)).to.equal(null);
  });

  it('is said in words, and refused where it says nothing', () => {
    expect(actionText({ kind: 'more', by: -2, limit: 1 })).to.equal('take 2 away, down to 1');
    expect(actionText({ kind: 'webhook', channelId: 3 }, () => 'Desk')).to.equal('call Desk');
    for (const wrong of [
      { kind: 'more', by: 0, limit: 3 },
      { kind: 'count', to: -1 },
      { kind: 'size', size: '' },
      { kind: 'burn' },
      { kind: 'restart', twice: true }
    ])
      expect(actionSchema.safeParse(wrong).success, JSON.stringify(wrong)).to.equal(false);
  });
});

describe('limits of a response', () => {
  const situation = (more: object = {}) => ({
    ...{ now, resourceId: 1, begun: [], members: null, affected: new Set<number>(), isMaintained: false },
    ...more
  });

  it('hold it back during maintenance, at some hours, in its rest, above its rate and its share; each says why', () => {
    expect(heldBackBy(usualLimits, situation())).to.equal(null);
    expect(heldBackBy(usualLimits, situation({ isMaintained: true }))?.reason).to.equal('maintenance');
    expect(heldBackBy({ ...usualLimits, duringMaintenance: true }, situation({ isMaintained: true }))).to.equal(null);
    const hours = { weekdays: [1], from: '01:00', to: '06:00' };
    const night = { ...usualLimits, notIn: { hours, zone: 'Europe/Rome' } };
    expect(heldBackBy(night, situation())).to.deep.include({
      ...{ reason: 'hours', until: instantFromText('2026-05-04T04:00:00Z') }
    });
    const begun = [instant(now - 20 * minute)];
    expect(heldBackBy(usualLimits, situation({ begun }))).to.deep.equal({
      ...{ reason: 'rest', says: 'Nothing is done with it for 60 min after something was.', until: now + 40 * minute }
    });
    expect(heldBackBy({ ...usualLimits, restMinutes: 10 }, situation({ begun }))).to.deep.include({
      ...{ reason: 'rate', until: now + 40 * minute }
    });
    expect(heldBackBy(usualLimits, situation({ resourceId: null, begun }))?.reason, 'about nothing').to.equal('rest');
  });

  it('of a group let never more than the share be touched, also where that is less than one', () => {
    const limits = { ...usualLimits, group: { groupId: 1, oneIn: 4 } };
    const of = (members: number[], affected: number[]) =>
      heldBackBy(limits, situation({ members, affected: new Set(affected) }));
    expect(of([1, 2, 3, 4], [])).to.equal(null);
    expect(of([1, 2, 3, 4], [2])?.says).to.equal('Of 4, 1 may be touched at a time, and 1 is.');
    expect(of([1, 2, 3, 4, 5, 6, 7, 8], [2])).to.equal(null);
    expect(of([1, 2, 3, 4], [9]), 'what is outside the group').to.equal(null);
    expect(of([1, 2], [])?.says).to.match(/not even one/);
    expect(of([2, 3, 4], [])?.says).to.match(/does not belong/);
  });

  /** Every minute, each resource wants something to be done; what limits permit is done and lasts for a while. */
  it('hold, whatever is wanted: rate, rest and share, as a slow count of what was done shows', () => {
    const limits = fc.record({
      mostPerHour: fc.integer({ min: 1, max: 4 }),
      restMinutes: fc.integer({ min: 1, max: 90 }),
      oneIn: fc.integer({ min: 1, max: 8 })
    });
    const wanted = fc.array(
      fc.record({ pause: fc.nat(9), resource: fc.nat(6), lasts: fc.integer({ min: 1, max: 20 }) }),
      {
        maxLength: 120
      }
    );
    fc.assert(
      fc.property(limits, wanted, fc.integer({ min: 1, max: 7 }), ({ oneIn, ...rest }, orders, count) => {
        const all: ResponseLimits = { ...usualLimits, ...rest, group: { groupId: 1, oneIn } };
        const members = Array.from({ length: count }, (_, id) => id);
        const done: { at: Instant; resourceId: number; until: Instant }[] = [];
        let at = now;
        for (const { pause, resource, lasts } of orders) {
          at = after(at, times(pause, minute));
          const begun = done.filter((one) => one.resourceId === resource % count).map((one) => one.at);
          const affected = new Set(done.filter(({ until }) => until > at).map(({ resourceId }) => resourceId));
          const given = { now: at, resourceId: resource % count, begun, members, affected, isMaintained: false };
          if (heldBackBy(all, given) === null)
            done.push({ at, resourceId: resource % count, until: after(at, times(lasts, minute)) });
        }
        for (const one of done) {
          const own = done.filter(({ resourceId }) => resourceId === one.resourceId);
          expect(own.filter((other) => other.at > one.at - hour && other.at <= one.at).length).to.be.at.most(
            all.mostPerHour
          );
          expect(
            own.filter((other) => other.at > one.at - rest.restMinutes * minute && other.at <= one.at)
          ).to.have.length(1);
          const touched = new Set(
            done.filter((other) => other.at <= one.at && other.until > one.at).map(({ resourceId }) => resourceId)
          );
          expect(touched.size).to.be.at.most(mayAtOnce(count, oneIn));
        }
      }),
      { numRuns: 300 }
    );
  });

  it('count what a clock that was set back says is yet to come as begun now', () => {
    const begun = [instant(now + 5 * hour)];
    expect(heldBackBy(usualLimits, situation({ begun }))).to.deep.include({ reason: 'rest', until: now + hour });
  });
});

describe('what came of a response', () => {
  const run = (more: Partial<Run>): Run => ({
    ...{ key: 'k', action: { kind: 'restart' }, state: 'done', says: '', createdAt: now, sentAt: now },
    ...{ endedAt: now, effect: null, effectAt: null },
    ...more
  });

  it('is said in a sentence', () => {
    const later = after(now, times(4, minute));
    expect(runText(run({ effect: 'cleared', effectAt: later }))).to.equal('Restarted; cleared 4 min later.');
    expect(runText(run({ effect: 'still raised', effectAt: later }))).to.equal('Restarted; still raised 4 min later.');
    expect(runText(run({ state: 'held', says: 'Too soon.' }))).to.equal('To restart it: held back. Too soon.');
    expect(runText(run({ state: 'unknown', says: 'The answer is lost.' }))).to.equal(
      'To restart it: nobody knows whether it was done. The answer is lost.'
    );
    expect(runText(run({ action: { kind: 'count', to: 5 } }))).to.equal('Its count is 5 now.');
    for (const state of ['sending', 'going', 'failed', 'refused', 'dropped'] as const)
      expect(runText(run({ state }))).to.match(/^To restart it: /);
  });

  it('is a failure where it failed, was refused, nobody knows, or it did not help; one that helped begins anew', () => {
    const done = { state: 'done' } as const;
    expect(
      failuresOnEnd([
        { state: 'failed', effect: null },
        { ...done, effect: 'still raised' }
      ])
    ).to.equal(2);
    expect(
      failuresOnEnd([
        { ...done, effect: null },
        { state: 'unknown', effect: null }
      ])
    ).to.equal(1);
    expect(
      failuresOnEnd([
        { state: 'refused', effect: null },
        { ...done, effect: 'cleared' },
        { state: 'failed', effect: null }
      ])
    ).to.equal(1);
    expect(failuresOnEnd([])).to.equal(0);
  });

  it('begins with how long it has been as grave as it needs to be', () => {
    const at = (minutes: number) => after(now, times(minutes, minute));
    const changes = [
      { at: at(0), severity: 'minor' },
      { at: at(3), severity: 'critical' },
      { at: at(5), severity: 'major' }
    ] as const;
    expect(gravelySince(changes, 'major')).to.equal(at(3));
    expect(gravelySince(changes, 'critical')).to.equal(null);
    expect(gravelySince(changes, 'minor')).to.equal(now);
    expect(gravelySince([...changes, { at: at(6), severity: null }], 'minor')).to.equal(null);
  });

  it('is what its definition says, in a sentence that has all of it', () => {
    const response = responseSchema.parse({
      ...{ name: 'Restart', alarmId: 4, from: 'major', heldMinutes: 10, action: { kind: 'restart' } },
      limits: usualLimits
    });
    expect(response.enabled).to.equal(true);
    expect(responseSentence(response)).to.equal(
      'When raised major or graver for 10 min: restart it; once an hour at most, 60 min apart at least.'
    );
    expect(responseSchema.safeParse({ ...response, heldMinutes: 2000 }).success).to.equal(false);
    expect(responseSchema.safeParse({ ...response, limits: { ...usualLimits, restMinutes: 0 } }).success).to.equal(
      false
    );
  });
});
