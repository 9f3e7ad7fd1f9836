import { expect } from 'chai';
import { belonging, groupSchema, groupSentence, type GroupRule } from './index';

describe('a group', () => {
  const rule: GroupRule = {
    match: 'all',
    conditions: [
      { label: 'resource', matches: '^booking-' },
      { label: 'account', is: ['corallo-prod'] }
    ]
  };
  const resource = { resource: 'booking-web-1', account: 'corallo-staging', 'tag.team': 'web' };

  it('gathers what meets all of its conditions, or any', () => {
    expect(belonging(rule)(resource)).to.equal(false);
    expect(belonging({ ...rule, match: 'any' })(resource)).to.equal(true);
    expect(belonging({ match: 'all', conditions: [{ label: 'tag.team', is: ['web'] }] })(resource)).to.equal(true);
    expect(groupSentence({ ...rule, match: 'any' })).to.equal(
      'Resources whose resource matches ^booking- or account is corallo-prod'
    );
  });

  it('looks at nothing but resources, and is named so that it can stand in an address', () => {
    const fits = (value: unknown) => groupSchema.safeParse(value).success;
    expect(fits({ name: 'booking-web', rule })).to.equal(true);
    expect(fits({ name: 'Booking web', rule })).to.equal(false);
    expect(fits({ name: 'a', rule: { match: 'all', conditions: [] } })).to.equal(false);
    expect(fits({ name: 'a', rule: { match: 'all', conditions: [{ label: 'class', is: ['5xx'] }] } })).to.equal(false);
    expect(fits({ name: 'a', rule: { match: 'all', conditions: [{ label: 'region', picker: 'region' }] } })).to.equal(
      false
    );
    expect(fits({ name: 'a', rule: { match: 'all', conditions: [{ label: 'group', is: ['b'] }] } })).to.equal(false);
  });
});
