import { expect } from 'chai';
import { instant, instantFromText, minute } from '../time';
import { inOrder, reviewText, type ReviewFacts, type TimelineEntry } from './index';

const openedAt = instantFromText('2026-11-28T02:39:00Z');
const entry = (minutes: number, more: Partial<TimelineEntry>): TimelineEntry => ({
  ...{ at: instant(openedAt + minutes * minute), kind: 'state', text: '', aside: '', severity: null, isFault: false },
  ...more
});
const facts: ReviewFacts = {
  ...{ subject: 'dorsale-standby', alarm: 'Replication is behind', severity: 'critical', account: 'corallo-prod' },
  ...{ openedAt, closedAt: instant(openedAt + 50 * minute), notifiedAt: instant(openedAt + minute) },
  ...{ acknowledgedAt: instant(openedAt + 25 * minute), acknowledgedBy: 'Nerea Olmo' },
  ending: { text: 'fixed: The agent was restarted.', by: 'Nerea Olmo' },
  timeline: [
    entry(-8, { kind: 'mark', text: 'gateway firmware 4.2 [rolled out](http://x)', aside: 'deploy-bot' }),
    entry(0, { text: 'Raised, critical.', severity: 'critical' }),
    entry(25, { kind: 'person', text: 'Acknowledged.', aside: 'Nerea Olmo' }),
    entry(30, { kind: 'note', text: 'The link is **up**.\n- disk is slow', aside: 'Ivo Brandt' })
  ]
};

describe('the summary of an incident for a review', () => {
  it('says how long it took to notice, to acknowledge and to clear, and who took part', () => {
    const text = reviewText(facts, 'Europe/Rome', openedAt);
    for (const part of [
      '# dorsale-standby: Replication is behind',
      'critical, corallo-prod, from 2026-11-28 03:39:00 +01:00 to 2026-11-28 04:29:00 +01:00.',
      '| Until somebody was notified | 1 min |',
      '| Until it was acknowledged | 25 min, by Nerea Olmo |',
      '| Until it was clear | 50 min |',
      '| How it ended | fixed: The agent was restarted. (Nerea Olmo) |',
      '| Who took part | Nerea Olmo, Ivo Brandt |',
      'The link is **up**.\n  - disk is slow (Ivo Brandt)'
    ])
      expect(text).to.contain(part);
    expect(text, 'what programs named is no markup').to.contain('\\[rolled out\\](http://x)');
  });

  it('says what did not happen', () => {
    const none = {
      closedAt: null,
      notifiedAt: null,
      acknowledgedAt: null,
      acknowledgedBy: null,
      ending: null,
      timeline: []
    };
    const text = reviewText({ ...facts, ...none }, 'UTC', instant(openedAt + 90 * minute));
    for (const part of [
      'notified | nobody was |',
      'acknowledged | it was not |',
      'clear | not yet, after 1 h 30 min |'
    ])
      expect(text).to.contain(part);
  });

  it('is in order; what was decided comes before what follows from it', () => {
    const all = [entry(5, { kind: 'message' }), entry(5, { kind: 'state' }), entry(1, { kind: 'note' })];
    expect(inOrder(all).map(({ kind }) => kind)).to.deep.equal(['note', 'state', 'message']);
  });
});
