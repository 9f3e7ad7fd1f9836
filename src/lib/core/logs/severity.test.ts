import { expect } from 'chai';
import { lineSeverities, severityFromSyslog, severityFromText, severityName, severityNumber } from './severity';
import { wordsIn } from './search/words';

describe('the severity of lines', () => {
  it('has OpenTelemetry’s names and numbers', () => {
    expect(lineSeverities.map(severityNumber)).to.deep.equal([1, 5, 9, 13, 17, 21]);
    for (let number = 1; number <= 24; number++)
      expect(severityName(number)).to.equal(lineSeverities[Math.floor((number - 1) / 4)]);
    for (const none of [0, -1, 25, 1.5, NaN]) expect(severityName(none)).to.equal(null);
  });

  it('is read from the words of programs', () => {
    const read = [
      'INFO',
      'info2',
      'Warning',
      'WARN4',
      'err',
      'crit',
      'emerg',
      'trace',
      'notice',
      'info1',
      'info5',
      'loud',
      ''
    ];
    expect(read.map(severityFromText)).to.deep.equal([9, 10, 13, 16, 17, 21, 24, 1, 10, null, null, null, null]);
    for (const name of lineSeverities)
      for (const step of [2, 3, 4])
        expect(severityFromText(`${name}${step}`)).to.equal(severityNumber(name) + step - 1);
  });

  it('of syslog is as OpenTelemetry maps it', () => {
    expect([0, 1, 2, 3, 4, 5, 6, 7, 8, -1].map(severityFromSyslog)).to.deep.equal([24, 22, 21, 17, 13, 10, 9, 5, 0, 0]);
    expect(wordsIn('a_b-ç 5').map(({ word, from, to }) => [word, from, to])).to.deep.equal([
      ['a', 0, 1],
      ['b', 2, 3],
      ['ç', 4, 5],
      ['5', 6, 7]
    ]);
  });
});
