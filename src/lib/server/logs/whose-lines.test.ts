import { expect } from 'chai';
import { noOrigin, type LogFields } from '../../core/logs';
import type { Resource } from '../inventory/resources';
import { belongingOf, ResourcesByName } from './whose-lines';

describe('whose lines are', () => {
  const resource = (id: number, name: string, account: string, service: string): Resource =>
    ({ id, name, account, accountId: account === 'corallo-prod' ? 1 : 2, providerId: `id-${id}`, service }) as Resource;
  const resources = new ResourcesByName([
    resource(1, 'seatmap-2', 'corallo-prod', 'clusters'),
    resource(2, 'harbour-n2', 'corallo-prod', 'machines'),
    resource(3, 'quote', 'corallo-prod', 'functions'),
    resource(4, 'quote', 'fleet-edge', 'functions')
  ]);
  const key = { accountId: 9, name: 'collector' };
  const whose = (fields: LogFields) => belongingOf({ ...noOrigin, resource: fields }, resources, key);

  it('is the most particular of what they name, by its name or its own id', () => {
    const ofContainer = { 'k8s.container.name': 'Seatmap-2', 'host.name': 'harbour-n2', 'service.name': 'seatmap' };
    expect(whose(ofContainer)).to.deep.equal({ accountId: 1, service: 'clusters', stream: 'seatmap', resourceId: 1 });
    expect(whose({ 'cloud.resource_id': 'id-2' })).to.include({ resourceId: 2, stream: 'harbour-n2' });
  });

  it('is nobody’s where several have the name, unless they name the account', () => {
    expect(whose({ 'service.name': 'quote' })).to.deep.equal({
      accountId: 9,
      service: 'pushed',
      stream: 'quote',
      resourceId: null
    });
    expect(whose({ 'service.name': 'quote', 'cloud.account.name': 'fleet-edge' })).to.include({
      accountId: 2,
      resourceId: 4
    });
  });

  it('is the key’s where they name nothing', () => {
    expect(whose({})).to.deep.equal({ accountId: 9, service: 'pushed', stream: 'collector', resourceId: null });
    expect(whose({ __proto__: null, 'service.name': 12n })).to.include({ stream: '12' });
  });
});
