import { expect } from 'chai';
import { markSchema } from './index';

describe('a mark', () => {
  const problems = (mark: object) =>
    markSchema.safeParse(mark).error?.issues.map(({ path, message }) => `${path.join('.')}: ${message}`) ?? [];
  const deployed = { text: 'fares 4.18 deployed', from: '2026-05-04T11:20:00Z' };

  it('is of an instant or a span, on a board, a service or everywhere', () => {
    expect(problems(deployed)).to.deep.equal([]);
    expect(problems({ ...deployed, to: '2026-05-04T11:50:00+00:00', service: 'databases' })).to.deep.equal([]);
    expect(problems({ ...deployed, board: 3 })).to.deep.equal([]);
  });

  it('without words, with an end before its start, or on two things is refused with the reason', () => {
    expect(problems({ ...deployed, text: ' ' })).to.deep.equal(['text: Say what happened.']);
    expect(problems({ ...deployed, to: deployed.from })).to.deep.equal(['to: The end must be after the start.']);
    expect(problems({ ...deployed, board: 3, service: 'databases' })).to.deep.equal([
      'service: Put it on a board or on a service, not on both.'
    ]);
    expect(problems({ ...deployed, from: 'yesterday' })[0]).to.match(/^from: Give a date and time with a zone/);
  });
});
