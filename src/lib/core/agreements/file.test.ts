import { expect } from 'chai';
import { agreementText, readAgreementFile, type AgreementFile } from './file';

const file: AgreementFile = {
  ...{ kind: 'agreements', version: 1, promises: [], responses: [] },
  budgets: [{ route: null, amount: 10, name: 'All', enabled: true }],
  summaries: [{ name: 'Week', channels: ['Harbour'] }]
};
const linesOf = (text: string): (number | null)[] => {
  const read = readAgreementFile(text);
  return read.kind === 'unreadable' ? read.problems.map(({ line }) => line) : [];
};

describe('agreements as text', () => {
  it('is the same for the same, whatever the order of what it is made of, and is read back equal', () => {
    for (const format of ['yaml', 'json'] as const) {
      const text = agreementText(file, format);
      const turned = JSON.parse(JSON.stringify(file)) as AgreementFile;
      turned.budgets = [{ enabled: true, name: 'All', amount: 10, route: null }];
      expect(agreementText(turned, format)).to.equal(text);
      expect(readAgreementFile(text)).to.deep.equal({ kind: 'read', file });
    }
    expect(agreementText(file, 'yaml').split('\n').slice(0, 4)).to.deep.equal([
      ...['kind: agreements', 'version: 1', 'budgets:', '  - name: All']
    ]);
  });

  it('has what it does not name as nothing', () => {
    const read = readAgreementFile('kind: agreements\nversion: 1\n');
    expect(read.kind === 'read' && read.file.budgets).to.deep.equal([]);
  });

  it('that is wrong is refused with the lines at fault, all at once', () => {
    const text = 'kind: agreements\nversion: 1\nbudgets:\n  - name: ""\n  - name: A\n  - name: A\nmore: 1\n';
    const read = readAgreementFile(text);
    expect(read.kind).to.equal('unreadable');
    expect(linesOf('kind: agreements\nversion: 1\nbudgets:\n  - name: A\n  - name: A\n')).to.deep.equal([5]);
    expect(linesOf(text)).to.include(4);
    for (const wrong of [
      '',
      'kind: alarms\nversion: 1\n',
      'kind: agreements\nversion: 2\n',
      'kind: agreements\nversion: 1\nbudgets: {}\n',
      'kind: agreements\nkind: agreements\nversion: 1\n',
      '{"kind": "agreements"',
      `kind: agreements\nversion: 1\nbudgets: ${'['.repeat(500)}${']'.repeat(500)}\n`,
      `kind: agreements\nversion: 1\nbudgets: [${'{ name: x },'.repeat(300)}]\n`
    ])
      expect(readAgreementFile(wrong).kind, wrong.slice(0, 60)).to.equal('unreadable');
  });
});
