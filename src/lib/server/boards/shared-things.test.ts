import { expect } from 'chai';
import type { Board, PictureKind } from '$lib/core/board';
import { sharedThings } from './shared-things';

const things = {
  alarms: [{ name: 'Fares slow', error: 'no such metric', threshold: 80 }],
  incidents: [{ id: 1 }],
  services: [{ service: 'queues' }],
  groups: [{ name: 'booking-web' }],
  reporting: [{ name: 'booking-web-1' }]
};
const board = (...pictures: PictureKind[]): Board => ({
  title: 'Shared',
  pickers: [],
  sections: [],
  panels: pictures.map(
    (picture, i) => ({ id: `p${i}`, title: '', picture, place: { x: 0, y: i, w: 6, h: 4 } }) as never
  )
});

describe('what somebody with a link is told besides numbers', () => {
  it('is nothing that no panel lists: of alarms only where they are drawn, not what they are called', () => {
    expect(sharedThings(board('lines', 'text'), things)).to.deep.equal({
      alarms: [{ name: '', error: null, threshold: 80 }],
      incidents: [],
      services: [],
      groups: [],
      reporting: []
    });
  });

  it('is each thing that a panel lists', () => {
    expect(sharedThings(board('alarms'), things).alarms).to.deep.equal(things.alarms);
    expect(sharedThings(board('alarms'), things).incidents).to.deep.equal([]);
    expect(sharedThings(board('incidents'), things).incidents).to.deep.equal(things.incidents);
    expect(sharedThings(board('snapshot'), things).incidents).to.deep.equal(things.incidents);
    const status = sharedThings(board('status'), things);
    expect([status.services, status.groups, status.reporting]).to.deep.equal([things.services, things.groups, []]);
    expect(sharedThings(board('silent'), things).reporting).to.deep.equal(things.reporting);
  });
});
