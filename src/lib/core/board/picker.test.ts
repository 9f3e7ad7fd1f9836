import { expect } from 'chai';
import fc from 'fast-check';
import { picksOf, plainSignal, type Signal } from '../signal';
import {
  choicesFrom,
  duplicatePicker,
  followedBy,
  freePickerName,
  mostPickers,
  pickedSignal,
  withChoice,
  type Picker
} from './index';

const picker = (name: string, more: Partial<Picker> = {}): Picker => ({
  name,
  title: name,
  label: name,
  several: true,
  usual: [],
  ...more
});
const account = picker('account');
const signal = plainSignal({ metric: 'balancer.responses', statistic: 'sum' });
const labels = (metric: string) => (metric === 'balancer.responses' ? ['class'] : []);
const wheres = (of: Signal) => picksOf(of).map(({ where }) => where);

describe('a picker', () => {
  it('narrows every pick whose metric has its label, and leaves others alone', () => {
    const narrowed = (pickers: Picker[], choices: Record<string, string[]>, ignores: string[] = []) =>
      wheres(pickedSignal(signal, pickers, choices, ignores, labels))[0];
    expect(narrowed([account], { account: ['a', 'b'] })).to.deep.equal([{ label: 'account', is: ['a', 'b'] }]);
    expect(narrowed([account], { account: [] })).to.deep.equal([]);
    expect(narrowed([account], { account: ['a'] }, ['account'])).to.deep.equal([]);
    expect(narrowed([picker('class')], { class: ['5xx'] })).to.deep.equal([{ label: 'class', is: ['5xx'] }]);
    expect(narrowed([picker('error')], { error: ['full'] })).to.deep.equal([]);
    expect(narrowed([picker('tier', { label: 'tag.tier' })], { tier: ['gold'] })).to.deep.equal([
      { label: 'tag.tier', is: ['gold'] }
    ]);
  });

  it('fills in what a signal refers to, once, and asks for nothing while nothing is chosen', () => {
    const referring: Signal = {
      ...signal,
      rows: [{ name: 'a', metric: 'm', statistic: 'avg', where: [{ label: 'resource', picker: 'account' }] }]
    };
    const filled = (chosen: string[]) => wheres(pickedSignal(referring, [account], { account: chosen }, [], labels))[0];
    expect(filled(['x'])).to.deep.equal([{ label: 'resource', is: ['x'] }]);
    expect(filled([])).to.deep.equal([]);
    expect(wheres(pickedSignal(referring, [account], { account: ['x'] }, ['account'], labels))[0]).to.deep.equal([]);
  });

  it('is followed by panels whose metrics have its label', () => {
    const followed = (pickers: Picker[], ignores: string[] = []) =>
      followedBy(signal, pickers, ignores, labels).map(({ name }) => name);
    expect(followed([account, picker('class'), picker('error')])).to.deep.equal(['account', 'class']);
    expect(followed([account], ['account'])).to.deep.equal([]);
  });

  it('is in the address: what is chosen comes back, the usual choice takes no room, and everything can be chosen', () => {
    const values = fc.uniqueArray(fc.string({ minLength: 1, maxLength: 6 }), { maxLength: 4 });
    fc.assert(
      fc.property(values, values, fc.boolean(), (chosen, usual, several) => {
        const one = picker('resource', { usual, several });
        const wanted = several ? chosen : chosen.slice(0, 1);
        const search = withChoice(new URLSearchParams('range=PT3H'), one, wanted);
        expect(search.get('range')).to.equal('PT3H');
        const back = choicesFrom(new URLSearchParams(search.toString()), [one])['resource'] ?? [];
        const isUsual = wanted.length === usual.length && wanted.every((value) => usual.includes(value));
        expect([...back].sort()).to.deep.equal(isUsual && !several ? usual.slice(0, 1) : [...wanted].sort());
        if (isUsual) expect([...search.keys()]).to.deep.equal(['range']);
      })
    );
  });

  it('is duplicated beside itself, under a name of its own, while there is room', () => {
    const copies = duplicatePicker([account, picker('region')], 'account');
    expect(copies?.map(({ name, title }) => [name, title])).to.deep.equal([
      ['account', 'account'],
      ['account-2', 'account, copy'],
      ['region', 'region']
    ]);
    expect(duplicatePicker([account], 'region')).to.equal(null);
    const full = Array.from({ length: mostPickers }, (_, i) => picker(`p${i}`));
    expect(duplicatePicker(full, 'p0')).to.equal(null);
  });

  it('has a name that no other has', () => {
    expect(freePickerName('account', ['account'])).to.equal('account-2');
    expect(freePickerName('tag.Cost Centre', [])).to.equal('tag-cost-centre');
    expect(freePickerName('9', [])).to.equal('label');
  });
});
