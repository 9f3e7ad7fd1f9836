import { connectorFileForm, connectorParts } from '$lib/core/connector';
import { readFileText } from '$lib/core/forms/file';
import { keysAndValues, type CodeLanguage } from '../forms/code/code-editor';

/** Keys that the file of a connector may have, with what they are. */
const keys: Readonly<Record<string, string>> = {
  kind: 'connector',
  version: '1',
  key: 'by which accounts name it; it stays',
  name: 'what people call the provider',
  about: 'one sentence',
  guide: 'what people enter and grant',
  endpoint: 'label of the address',
  secret: 'label of the secret',
  steps: 'at the provider, in order',
  rights: 'right, why, optional',
  signIn: 'how a request shows whose it is',
  by: 'a way to sign in, to go on, or to request points',
  limits: 'reach, requests at once and a second',
  reachDays: 'how far back points can be requested',
  historyHours: 'longest span of one request',
  atOnce: 'requests at the same time',
  perSecond: 'requests a second',
  slowDown: 'statuses that ask to slow down',
  retryAfter: 'header, and in which unit',
  values: 'for expressions: $name',
  functions: 'for expressions: $name(…)',
  resources: 'what there is',
  metrics: 'what is measured',
  points: 'samples',
  events: 'what happened',
  lines: 'logs',
  bills: 'what it costs',
  over: 'a list that comes first; its thing is $of',
  request: 'method, path, with, headers, body',
  method: 'GET or POST',
  path: 'URI template below the address',
  with: 'what stands in the path',
  headers: 'expressions',
  body: 'an expression; sent as JSON',
  pages: 'how an answer goes on',
  next: 'what is $page for the next page',
  first: 'what is $page for the first page',
  each: 'the things in an answer',
  map: 'what one of them is here',
  time: 'seconds, milliseconds or text',
  atMost: 'series in one request',
  feeds: 'what writes lines',
  order: 'a request that orders, and what it takes',
  notYet: 'status that says: ask again',
  until: 'up to when there are all lines',
  more: 'whether there are more',
  through: 'the last complete day',
  settlesAfterDays: 'days that may still change',
  daysAtOnce: 'days in one request'
};

const values: Readonly<Record<string, readonly string[]>> = {
  kind: ['connector'],
  method: ['GET', 'POST'],
  by: [
    ...['nothing', 'header', 'basic', 'client-credentials', 'signature', 'hmac'],
    ...['token', 'link', 'number', 'series', 'resource', 'metric']
  ],
  time: ['seconds', 'milliseconds', 'text'],
  encoding: ['hex', 'base64'],
  hash: ['sha256', 'sha512']
};

/** Files of connectors, with completion of keys and values, and what is wrong with their form said at its line; expressions are read when it is tried or saved. */
export const connectorLanguage: CodeLanguage = {
  problemsIn: (text) => {
    const read = readFileText(text, connectorFileForm);
    return read.kind === 'read' ? [] : read.problems;
  },
  complete: (context) => keysAndValues(context, keys, values)
};

/** What parts are called where one is chosen. */
export const partNames: Readonly<Record<(typeof connectorParts)[number], string>> = {
  resources: 'resources',
  metrics: 'metrics',
  points: 'samples',
  events: 'events',
  lines: 'lines',
  bills: 'bills'
};

/** What a new connector begins with. */
export const blankConnector = `kind: connector
version: 1
key: my-provider
name: My provider

signIn: { by: header, header: authorization, value: 'Bearer {secret}' }

resources:
  request: { path: /v1/things }
  each: things
  map: '{ "id": id, "name": name, "type": "machine" }'

metrics:
  request: { path: /v1/measures }
  each: measures
  map: '{ "name": "machine." & code, "title": title, "unit": unit, "kind": "gauge", "resourceType": "machine", "samplingSeconds": 60 }'

points:
  by: resource
  request:
    path: /v1/things/{id}/points{?from,to}
    with: { id: $resource, from: $from, to: $to }
  each: series
  map: '{ "resource": $resource, "metric": "machine." & code, "points": points }'
`;
