import { from, signal, to, zone, type Examples } from './example';

const panel = {
  ...{ id: 'load', title: 'Processor use', picture: 'lines', signal },
  place: { x: 0, y: 0, w: 6, h: 4 }
};
const board = { title: 'Gates', about: 'What gates need to open in time.', panels: [panel] };
const file = {
  text: JSON.stringify({ kind: 'board', version: 1, ...board, title: 'Gates, from a file' })
};
const group = { match: 'all', conditions: [{ label: 'resource', matches: 'gate-*' }] };

/** Signals and what is made of them, and boards. */
export const boardExamples: Examples = {
  'POST /query': { body: { signal, from, to, cells: 60 } },
  'POST /queries': { body: { signals: [signal], from, to, cells: 60 } },
  'POST /growth': { body: { signal, daysBack: 14, daysAhead: 14, zone, limit: { is: 'above', at: 90 } } },
  'POST /picks': { body: { metric: 'machine.processor.use', where: [{ label: 'resource', matches: 'gate-*' }] } },
  'POST /signals': { body: { name: 'Processor of the gates', signal } },
  'PUT /signals/{id}': { body: { name: 'Processor of gate-api-1', signal } },
  'POST /derived': {
    body: {
      name: 'gates.processor.half',
      signal: { ...signal, rows: [...signal.rows, { name: 'b', formula: 'a / 2' }], show: ['b'] }
    }
  },
  'POST /groups/match': { body: group },
  'POST /folders': { body: { name: 'Harbour' } },
  'PUT /folders/{id}': { body: { name: 'Harbour and gates' } },
  'POST /boards': { body: board },
  'POST /boards/plan': { body: file },
  'POST /boards/apply': { body: file },
  'PUT /boards/{id}': { body: { ...board, title: 'Gates and displays', version: 1 } },
  'PUT /boards/{id}/folder': { body: { folder: null } },
  'POST /boards/{id}/panels': { body: { title: 'Processor of gate-api-1', signal, picture: 'lines' } },
  'PUT /boards/{id}/panels/{panel}': { body: { signal } },
  'PUT /boards/{id}/sharing': {
    body: { reach: 'workspace', everyone: 'edit', named: [{ role: 'viewer', may: 'view' }] }
  },
  'PUT /boards/{id}/team': { body: { teamId: null } },
  'POST /boards/{id}/links': { body: { days: 7 } },
  'PUT /boards/{id}/favourite': { body: { favourite: true } },
  'POST /boards/{id}/presence': { body: { editing: false, panel: null } },
  'POST /shared/{token}/queries': { body: { asks: [{ panel: 'load', column: 0 }], from, to, cells: 60 } },
  'POST /marks': { body: { text: 'Version 12.4 of the gates', from, service: 'machines' } },
  'GET /marks': { query: { from, to } },
  'GET /uses': { query: { kind: 'signal', id: '1' } },
  'GET /made': { query: { since: from } },
  'GET /resources/{id}/then': { query: { at: to } },
  'PUT /metrics/{name}/unit': { body: { unit: '%' } },
  'POST /summaries': { body: { kind: 'week', of: '2026-04-27', zone } },
  'POST /summary-plans': {
    body: { name: 'For the harbour', kind: 'week', at: '08:00', zone, channels: [1] }
  },
  'PUT /summary-plans/{id}': {
    body: { plan: { name: 'For the harbour', kind: 'month', at: '08:00', zone, channels: [1] }, version: 1 }
  }
};
