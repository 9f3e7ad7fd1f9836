import { expect } from 'chai';
import { instant } from '../time';
import { changedBy, changeKinds, changeWords, factsOfChange, followerSchema } from './index';

describe('changes that programs follow', () => {
  it('are of the kind of what they are about; what is read, and signing in, changes nothing', () => {
    expect(changedBy('PUT /alarms/{id}', 3)).to.deep.equal({ kind: 'alarms', id: 3 });
    expect(changedBy('/alarms/[id=number]?/save', 3)).to.deep.equal({ kind: 'alarms', id: 3 });
    expect(changedBy('POST /event-rules', 4)).to.deep.equal({ kind: 'event-rules', id: 4 });
    expect(changedBy('/receive?/make', null)).to.deep.equal({ kind: 'keys', id: null });
    expect(changedBy('response', 5)).to.deep.equal({ kind: 'responses', id: 5 });
    for (const none of ['GET /acts', 'sign-in', '', '/', 'POST /toString', '__proto__', 'PUT /nothing-known'])
      expect(changedBy(none, 3), none).to.equal(null);
  });

  it('have the id of what they are about, never one of something else', () => {
    for (const act of ['POST /swaps/{id}/{answer}', 'DELETE /overrides/{id}', '/a/[token]', '/coverage?/choose'])
      expect(changedBy(act, 3)?.id, act).to.equal(null);
    expect(changedBy('/receive?/revoke', 3)?.id).to.equal(3);
  });

  it('are data without anything that is null or empty, their instants as text', () => {
    const change = {
      action: 'opened',
      by: 'Bussola',
      means: 'engine',
      id: 7,
      name: 'Queue on gate',
      path: '/incidents/7'
    };
    expect(
      factsOfChange(
        'incidents',
        instant(1_777_881_660_000),
        { ...change, since: instant(1_777_881_600_000), severity: null },
        'https://b.example.test'
      )
    ).to.deep.equal({
      ...{ kind: 'incidents', action: 'opened', what: 'Raises an incident', by: 'Bussola', means: 'engine' },
      ...{ id: 7, name: 'Queue on gate', at: '2026-05-04T08:01:00.000Z', since: '2026-05-04T08:00:00.000Z' },
      link: 'https://b.example.test/incidents/7'
    });
    expect(
      factsOfChange('keys', instant(0), { ...change, id: null, name: '', path: '' }, 'https://b.example.test')
    ).to.deep.equal({
      ...{ kind: 'keys', action: 'opened', what: 'Raises an incident', by: 'Bussola', means: 'engine' },
      at: '1970-01-01T00:00:00.000Z'
    });
    expect(changeWords({ action: 'something new' })).to.equal('something new');
  });

  it('are chosen by kinds that there are, each once', () => {
    expect(
      followerSchema.parse({ channelId: 3, kinds: ['alarms', 'boards', 'alarms'], isOn: true }).kinds
    ).to.deep.equal(['alarms', 'boards']);
    for (const bad of [
      { channelId: 0, kinds: [], isOn: true },
      { channelId: 3, kinds: ['ports'], isOn: true },
      { channelId: 3, kinds: Array.from({ length: 100 }, () => 'alarms'), isOn: true },
      { channelId: 3, kinds: [], isOn: true, secret: 'x' }
    ])
      expect(followerSchema.safeParse(bad).success, JSON.stringify(bad)).to.equal(false);
    expect(Object.keys(changeKinds)).to.deep.equal(Object.keys(changeKinds).toSorted());
  });
});
