import { expect } from 'chai';
import { placeGroups, placeOf, serviceOf } from './places';

describe('places of the index', () => {
  it('are ten at most, so that all are seen without scrolling, and lead to pages that differ', () => {
    const places = placeGroups.flat();
    expect(places.length).to.be.at.most(10);
    const pages = places.flatMap(({ tabs }) => tabs.map(({ href }) => href));
    expect(new Set(pages).size).to.equal(pages.length);
  });

  it('are of a service where the address names one, but for an account, which shows the plan of one', () => {
    const search = new URLSearchParams('service=queues');
    expect([serviceOf('/alarms', search), serviceOf('/accounts/3', search)]).to.deep.equal(['queues', null]);
    expect(serviceOf('/bench', new URLSearchParams())).to.equal(null);
  });

  it('know their pages and what is below them', () => {
    expect(placeOf('/derived')).to.deep.include({ href: '/derived' });
    expect(placeOf('/accounts/3')?.place.title).to.equal('Accounts');
    expect(placeOf('/groups/new')?.place.title).to.equal('Bench');
    expect([placeOf('/'), placeOf('/services/machines/board'), placeOf('/storehouse')]).to.deep.equal([
      null,
      null,
      null
    ]);
  });
});
