import { expect } from 'chai';
import type { Document } from 'openapi-client-axios';
import { Secret, TOTP } from 'otpauth';
import { readFileSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { keyScopes } from '../../src/lib/core/people/key-scopes';
import { examples } from '../../src/lib/server/api/examples';
import { operations } from '../../src/lib/server/api/operations';
import { makeKey } from '../../src/lib/server/intake/receive/keys';
import { DescribedClient } from '../support/api-client';
import { startApp, type RunningApp } from '../support/app';
import { machineNamed } from '../support/bussola';
import { sessionOf } from '../support/program';
import { runShell } from '../support/shell';
import { until } from '../support/until';

interface Made {
  readonly id: number;
  readonly version: number;
}

describe('the API, by a client made from its description', () => {
  let app: RunningApp;
  let client: DescribedClient;
  const as: Record<string, Record<string, string>> = {};
  const people: Record<string, number> = {};
  const at = (minutes: number) => new Date(app.clock.now() + minutes * 60_000).toISOString();
  const call: DescribedClient['call'] = (name, sent) => client.call(name, sent);
  /** Makes something, reads it where it is read alone, and changes it. @returns its id */
  const makeAndChange = async (kind: string, body?: unknown, change?: unknown): Promise<number> => {
    const { id, version } = await call<Made>(`POST /${kind}`, { body });
    await call(`GET /${kind}`);
    const params = { id };
    if (client.names.includes(`GET /${kind}/{id}`)) await call(`GET /${kind}/{id}`, { params });
    await call(`PUT /${kind}/{id}`, { params, ...(change !== undefined && { body: change }) });
    expect(version ?? 1, kind).to.equal(1);
    return id;
  };

  before(async function () {
    this.timeout(300_000);
    app = await startApp({ accounts: true, env: { BUSSOLA_BACKUPS: '' } });
    await app.live(2);
    for (const name of ['kaja', 'nerea', 'ivo', 'oda'])
      as[name] = { cookie: await sessionOf(app.origin, name), origin: app.origin };
    const { people: all } = (await (await fetch(`${app.origin}/api/v1/people`, { headers: as['kaja'] })).json()) as {
      people: { id: number; name: string }[];
    };
    for (const { id, name } of all) people[name] = id;
    const key = await makeKey(app.db, {
      ...{ name: 'whole-program', scopes: keyScopes, expiresAt: null, mostSeries: 100, mostBytesADay: 10_000_000 },
      ...{ createdAt: app.clock.now(), createdBy: 'Kaja Tamm', ownerId: people['kaja'] }
    });
    const document = (await (await fetch(`${app.origin}/api/v1/openapi.json`)).json()) as Document;
    client = new DescribedClient(document, { authorization: `Bearer ${key.text}` });
  });
  after(async function () {
    this.timeout(90_000);
    await app.stop();
  });

  it('is sent to, and reads what it received', async () => {
    // Several of one moment, so that pages end amid them.
    const lines = Array.from({ length: 11 }, (_, index) => ({
      time: at(index < 8 ? -1 : -2),
      msg: `out of memory ${index}`
    }));
    await call('POST /receive/lines', { body: lines.map((line) => JSON.stringify(line)).join('\n') });
    for (const id of ['r-1', 'r-2', 'r-3', 'r-4', 'r-5'])
      await call('POST /receive/events', {
        body: JSON.stringify({
          ...{ specversion: '1.0', id, source: '/releases', type: 'com.corallo.release.finished' },
          ...{ subject: 'gate-api-1', time: at(-3), data: {} }
        })
      });
    await call('POST /receive/events');
    await call('POST /receive/marks', { body: { text: 'Version 12.4', from: at(-1) } });
    await call('POST /receive/{format}', {
      params: { format: 'openmetrics' },
      body: `# TYPE made_up gauge\nmade_up{resource="gate-api-1"} 3 ${app.clock.now() / 1000}\n# EOF\n`
    });
    const found = await call<{ lines: { key: string }[] }>('GET /lines', {
      params: { from: at(-60), to: at(1), search: '' }
    });
    const params = { key: found.lines[0]?.key ?? '' };
    await call('GET /lines/{key}', { params });
    await call('GET /lines/{key}/around', { params });
    await call('GET /lines/{key}/near', { params });
    for (const name of [
      'GET /lines/counts',
      'GET /lines/fields',
      'POST /lines/pattern',
      'GET /events',
      'GET /marks',
      'GET /metrics'
    ])
      await call(name);
    await call('GET /metrics/{name}', { params: { name: 'machine.processor.use' } });
    await call('PUT /metrics/{name}/unit', { params: { name: 'made_up' } });
    for (const name of [
      'openapi.json',
      'problems',
      'schemas/board',
      'schemas/alarms',
      'schemas/on-call',
      'schemas/connector',
      'schemas/signal'
    ])
      await call(`GET /${name}`);
  });

  it('makes and changes signals, boards and what is shared of them', async () => {
    for (const name of ['POST /query', 'POST /queries', 'POST /growth', 'POST /picks', 'POST /groups/match'])
      await call(name);
    const signal = await makeAndChange('signals');
    await call('POST /derived');
    await call('GET /derived');
    const folder = await makeAndChange('folders');
    await call('POST /boards/plan');
    await call('POST /boards/apply');
    const board = await makeAndChange('boards');
    const params = { id: board };
    await call('PUT /boards/{id}/folder', { params, body: { folder } });
    await call('POST /boards/{id}/panels', { params });
    await call('PUT /boards/{id}/panels/{panel}', { params: { ...params, panel: 'load' } });
    await call('GET /boards/{id}/file', { params });
    await call('GET /boards/{id}/versions', { params });
    await call('GET /boards/{id}/versions/{version}', { params: { ...params, version: 1 } });
    await call('GET /boards/{id}/sharing', { params });
    await call('PUT /boards/{id}/sharing', { params });
    const link = await call<{ id: number; address: string }>('POST /boards/{id}/links', { params });
    await call('POST /shared/{token}/queries', { params: { token: link.address.split('/').at(-1) ?? '' }, as: {} });
    await call('DELETE /boards/{id}/links/{link}', { params: { ...params, link: link.id } });
    const other = await call<{ id: number }>('POST /boards/{id}/links', { params });
    await call('GET /unused');
    await call('GET /made');
    await call('GET /uses', { params: { kind: 'signal', id: signal } });
    await app.db.rows('update board_links set expires_at = $1 where id = $2', [app.clock.now() - 1, other.id]);
    await call('DELETE /board-links/{id}', { params: { id: other.id } });
    await call('PUT /boards/{id}/favourite', { params, as: as['nerea'] });
    await call('POST /boards/{id}/presence', { params, as: as['nerea'] });
    const team = await makeAndChange('teams', undefined, { name: 'Gates', memberIds: [people['ivo']] });
    await call('PUT /boards/{id}/team', { params, body: { teamId: team } });
    await call('DELETE /teams/{id}', { params: { id: team } });
    await call('DELETE /boards/{id}', { params });
    const { removals } = await call<{ removals: { id: number }[] }>('GET /removals');
    await call('POST /removals/{id}/restore', { params: { id: removals[0]!.id } });
    await call('DELETE /boards/{id}', { params });
    await call('DELETE /folders/{id}', { params: { id: folder } });
    await call('DELETE /signals/{id}', { params: { id: signal } });
    const { id: mark } = await call<Made>('POST /marks', { body: { text: 'Gates', from: at(-5) } });
    await call('DELETE /marks/{id}', { params: { id: mark } });
  });

  it('makes and changes alarms and what is judged, and does what is done about incidents', async () => {
    for (const name of ['POST /bands', 'POST /rehearse', 'POST /preflight', 'POST /alarms/plan', 'POST /alarms/apply'])
      await call(name);
    const alarm = await makeAndChange('alarms');
    const params = { id: alarm };
    await call('GET /alarms/file');
    await call('GET /alarms/{id}/versions', { params });
    await call('POST /alarms/{id}/versions/{version}/restore', { params: { ...params, version: 1 } });
    const ids = [alarm];
    const changed = await call('POST /alarms/change', { body: { ids, change: { owner: 'Gate team' } } });
    await call('POST /alarms/undo', { body: { changed: changed['changed'] } });
    app.standIns.levante.stress({
      ...{ resource: machineNamed('gate-api-1').id, metric: 'all', value: 97, from: app.clock.now() },
      until: app.clock.now() + 60 * 60_000
    });
    await app.live(6);
    const incident = await until('the incident', async () => {
      const { incidents } = await call<{ incidents: { id: number; alarmId: number | null }[] }>('GET /incidents');
      return incidents.find(({ alarmId }) => alarmId === alarm)?.id;
    });
    const on = { params: { id: incident } };
    await call('GET /incidents');
    for (const what of ['', '/unusual', '/timeline', '/review']) await call(`GET /incidents/{id}${what}`, on);
    await call('POST /incidents/{id}/acknowledge', on);
    await call('POST /incidents/{id}/notes', on);
    await call('POST /incidents/{id}/hand-over', { ...on, body: { personId: people['ivo'] } });
    await call('POST /incidents/{id}/pictures', on);
    await call('GET /incidents/{id}/pictures/{picture}', { params: { id: incident, picture: 1 } });
    await call('DELETE /incidents/{id}/acknowledge', on);
    await call('POST /message-templates/preview', {
      body: { templates: { subject: '{{severity}}' }, incidentId: incident }
    });
    await call('POST /incidents/{id}/close', on);
    await call('DELETE /incidents/{id}/close', on);
    for (const kind of ['event-rules', 'checks', 'objectives', 'budgets']) {
      await call(`POST /${kind}/try`);
      const id = await makeAndChange(kind);
      if (kind === 'checks') await call('GET /checks/{id}/attempts', { params: { id } });
      await call(`DELETE /${kind}/{id}`, { params: { id } });
    }
    const { resources } = await call<{ resources: { id: number; name: string }[] }>('GET /resources', {
      params: { service: 'machines' }
    });
    const machine = resources.find(({ name }) => name === 'gate-api-1');
    const about = { params: { id: machine?.id ?? 0 } };
    await call('GET /resources/{id}', about);
    await call('GET /resources/{id}/then', about);
    await call('GET /resources/{id}/abilities', about);
    await call('POST /resources/{id}/foretell', about);
    await call('POST /resources/{id}/acts', {
      ...about,
      body: { action: { kind: 'restart' }, confirmed: machine?.name }
    });
    await call('GET /response-runs');
    await call('POST /line-rules/try');
    await call('GET /line-rules/proposals');
    const { id: rule } = await call<Made>('POST /line-rules');
    await call('GET /line-rules');
    await call('DELETE /line-rules/{id}', { params: { id: rule } });
    const { id: shelving } = await call<Made>('POST /shelvings', {
      body: { reason: 'New gates', scope: { resources: ['gate-api-1'] }, to: at(60) }
    });
    await call('GET /shelvings');
    await call('DELETE /shelvings/{id}', { params: { id: shelving } });
    await call('POST /agreements/plan');
    await call('POST /agreements/apply');
    await call('GET /agreements/file');
    await call('POST /alarms/remove', { body: { ids } });
    const { id: last } = await call<Made>('POST /alarms');
    await call('DELETE /alarms/{id}', { params: { id: last } });
  });

  it('connects what is read, says what it costs, and backs all of it up', async () => {
    await call('POST /accounts/pages/try');
    const { id: pages } = await call<Made>('POST /accounts/pages');
    const params = { id: pages };
    await call('GET /accounts/{id}/pages', { params });
    await call('PUT /accounts/{id}/pages', { params });
    const { accounts } = await call<{ accounts: { id: number; name: string; provider: string }[] }>('GET /accounts');
    const ostro = accounts.find(({ provider }) => provider === 'ostro')?.id ?? 0;
    await call('POST /accounts/{id}/estimate', { params: { id: ostro } });
    await call('GET /accounts/{id}/retention', { params: { id: ostro } });
    await call('DELETE /accounts/{id}', { params: { ...params, history: 'keep' } });
    await call('POST /accounts/{id}/stop-erasing', { params: { id: ostro }, refused: 'not-found' });

    await call('POST /connectors/check');
    await call('POST /connectors/try');
    const connector = await makeAndChange('connectors');
    const text = readFileSync('static/connectors/ostro.yaml', 'utf8').replace('key: ostro', 'key: ostro-described');
    const { id: described } = await call<Made>('POST /connectors', { body: { text } });
    const access = { endpoint: `${app.standIns.url}/ostro`, keyId: 'bussola-reader', secret: 'demo-only-ostro-71c0e2' };
    await call('POST /connectors/{id}/recordings', {
      params: { id: described },
      body: { text, access, part: 'resources', name: 'All of Ostro' }
    });
    await call('POST /connectors/{id}/test', { params: { id: described }, body: { text } });
    const whole = await call<{ recordings: { id: number }[] }>('GET /connectors/{id}', { params: { id: described } });
    await call('DELETE /connectors/{id}/recordings/{recording}', {
      params: { id: described, recording: whole.recordings[0]?.id ?? 0 }
    });
    await call('DELETE /connectors/{id}', { params: { id: connector } });

    for (const name of [
      'POST /costs/query',
      'GET /costs/findings',
      'PUT /costs/rates',
      'GET /costs/rates',
      'DELETE /costs/rates',
      'PUT /costs/currency'
    ])
      await call(name);
    await call('POST /bills/preview');
    await call('POST /bills/import', { params: { accounts: JSON.stringify({ elsewhere: ostro }) } });
    await call('GET /bills');
    await call('GET /bills/focus');

    const settled = (id: number) =>
      until('what runs ends', async () => {
        const { backups } = await call<{ backups: { id: number; state: string }[] }>('GET /backups');
        return backups.find((one) => one.id === id)?.state !== 'running';
      });
    await call('PUT /backups/plan');
    const { id: backup } = await call<Made>('POST /backups');
    await settled(backup);
    const { id: rehearsal } = await call<Made>('POST /backups/{id}/rehearse', { params: { id: backup } });
    await call('POST /backups/{id}/stop', { params: { id: rehearsal } });
    await settled(rehearsal);
    await call('DELETE /backups/{id}', { params: { id: backup } });
  }).timeout(300_000);

  it('says who is notified and who has the watch', async () => {
    const { standIns } = app;
    await call('PUT /message-templates', {
      body: { templates: {}, version: (await call<Made>('GET /message-templates')).version }
    });
    const { id: topic } = await call<Made>('POST /channels', { body: { kind: 'topic', name: 'Harbour' } });
    const { id: subscriber } = await call<Made>('POST /channels/{id}/subscribers', { params: { id: topic } });
    await call('GET /channels/{id}/subscribers', { params: { id: topic } });
    await call('DELETE /channels/{id}/subscribers/{subscriber}', { params: { id: topic, subscriber } });
    const { id: desk } = await call<Made>('POST /channels', {
      body: { kind: 'webhook', name: 'Desk', address: `${standIns.url}/desk/events` }
    });
    const sent = await until('the code', () => standIns.desk.events.all[0]);
    await call('POST /channels/{id}/confirm', {
      params: { id: desk },
      body: { code: /\b(\d{6})\b/.exec(sent.text)?.[1] ?? '' }
    });
    await call('POST /channels/{id}/test', { params: { id: desk } });
    await call('GET /channels');
    const { messages } = await call<{ messages: { id: number; state: string }[] }>('GET /outbox');
    await call('GET /outbox/{id}/attempts', { params: { id: messages[0]?.id ?? 0 } });
    await call('POST /outbox/{id}/send-again', { params: { id: messages[0]?.id ?? 0 }, refused: 'not-found' });
    const route = {
      ...{
        name: 'Gates, by night',
        when: {},
        zone: 'UTC',
        group: { by: 'related', wait: 30_000, atMostEvery: 300_000 }
      },
      steps: [{ after: 0, notify: [{ kind: 'channel', channelId: desk }] }]
    };
    const routed = await makeAndChange(
      'routes',
      { route, place: 'list' },
      { route: { ...route, name: 'Gates' }, version: 1 }
    );
    await call('POST /routes/try');
    const { routes } = await call<{ routes: { id: number; place: string }[] }>('GET /routes');
    await call('POST /routes/order', {
      body: {
        ids: routes
          .filter(({ place }) => place === 'list')
          .map(({ id }) => id)
          .reverse()
      }
    });
    await call('DELETE /routes/{id}', { params: { id: routed } });
    const { id: plan } = await call<Made>('POST /summary-plans', {
      body: { name: 'For the harbour', kind: 'week', at: '08:00', zone: 'UTC', channels: [desk] }
    });
    await call('GET /summary-plans');
    await call('PUT /summary-plans/{id}', {
      params: { id: plan },
      body: { plan: { name: 'For the harbour', kind: 'month', at: '08:00', zone: 'UTC', channels: [desk] }, version: 1 }
    });
    await call('POST /summary-plans/{id}/send', { params: { id: plan } });
    await call('DELETE /summary-plans/{id}', { params: { id: plan } });
    const made = await call<{ id: number; link: string }>('POST /summaries');
    await call('GET /summary');
    await call('GET /summaries');
    await call('GET /summaries/{id}', { params: { id: made.id } });
    await call('GET /read/{token}', { params: { token: made.link.split('/').at(-1) ?? '' }, as: {} });
    await call('DELETE /summaries/{id}/link', { params: { id: made.id } });
    for (const name of ['POST /on-call/plan', 'POST /on-call/apply', 'GET /on-call/file', 'GET /on-call'])
      await call(name);
    const layers = [{ people: [people['nerea'], people['ivo']], days: 7, from: '2026-05-04', at: '00:00' }];
    const rota = { name: 'Harbour', zone: 'UTC', layers };
    const id = await makeAndChange('rotas', rota, { rota: { ...rota, name: 'Harbour and gates' }, version: 1 });
    const params = { id };
    await call('GET /rotas/{id}/shifts', { params });
    const { id: override } = await call<Made>('POST /rotas/{id}/overrides', {
      params,
      body: { from: at(600), to: at(660), personId: people['ivo'], reason: 'At the dentist.' }
    });
    await call('DELETE /overrides/{id}', { params: { id: override } });
    const { id: swap } = await call<Made>('POST /rotas/{id}/swaps', {
      ...{ params, as: as['nerea'] },
      body: { from: at(600), to: at(660), askedOf: people['ivo'] }
    });
    await call('POST /swaps/{id}/{answer}', { params: { id: swap, answer: 'accept' }, as: as['ivo'] });
    await call('POST /rotas/{id}/import', { params });
    await call('POST /calendars', { as: as['nerea'] });
    await call('DELETE /calendars/{id}', { params: { id: 1 } });
    await call('DELETE /rotas/{id}', { params });
    const response = {
      ...{
        name: 'To the desk',
        alarmId: 1,
        from: 'critical',
        heldMinutes: 5,
        action: { kind: 'webhook', channelId: desk }
      },
      limits: { mostPerHour: 2, restMinutes: 15, group: null, notIn: null, duringMaintenance: false, failuresToStop: 2 }
    };
    const respond = await makeAndChange('responses', response, {
      response: { ...response, heldMinutes: 9 },
      version: 1
    });
    await call('DELETE /responses/{id}', { params: { id: respond } });
    const follower = { channelId: desk, kinds: ['channels', 'followers'], isOn: true };
    const follows = await makeAndChange('followers', follower, { follower: { ...follower, isOn: false }, version: 1 });
    await call('GET /followers/{id}/changes', { params: { id: follows } });
    await call('DELETE /followers/{id}', { params: { id: follows } });
    await call('DELETE /channels/{id}', { params: { id: topic } });
  });

  it('is used by people for what is their own, and by administrators for people', async () => {
    const { standIns } = app;
    const kaja = { as: as['kaja'] };
    await call('GET /people');
    await call('GET /teams');
    await call('GET /processes');
    await call('GET /slow');
    await call('GET /acts');
    const { id } = await call<Made>('POST /people', kaja);
    const on = { params: { id }, ...kaja };
    await call('PUT /people/{id}', on);
    await call('POST /people/{id}/invite-again', on);
    await call('POST /people/{id}/disable', on);
    await call('POST /people/{id}/enable', on);
    await call('DELETE /people/{id}/sessions', on);
    await call('DELETE /people/{id}/second-factor', { ...kaja, params: { id: people['oda'] ?? 0 } });
    const ivo = { as: as['ivo'] };
    await call('GET /me', ivo);
    await call('PUT /me', ivo);
    const { id: address } = await call<Made>('POST /me/addresses', {
      ...ivo,
      body: { kind: 'text-message', address: '+12025550143' }
    });
    const own = { ...ivo, params: { id: address } };
    const codes = () => standIns.phone.messages.all.filter(({ to }) => to === '+12025550143');
    await until('the code', () => codes()[0]);
    await call('POST /me/addresses/{id}/send-again', own);
    const text = await until('another code', () => (codes().length > 1 ? codes()[0] : null));
    await call('POST /me/addresses/{id}/confirm', { ...own, body: { code: /\b(\d{6})\b/.exec(text.text)?.[1] ?? '' } });
    await call('DELETE /me/addresses/{id}', own);
    await call('GET /me/devices/key', ivo);
    const { id: device } = await call<Made>('POST /me/devices', ivo);
    await call('GET /me/devices', ivo);
    await call('POST /me/devices/{id}/test', { ...ivo, params: { id: device } });
    await call('DELETE /me/devices/{id}', { ...ivo, params: { id: device } });
    const { secret } = await call<{ secret: string }>('POST /me/second-factor/new', ivo);
    const codeAt = (ahead: number) =>
      new TOTP({ secret: Secret.fromBase32(secret) }).generate({ timestamp: app.clock.now() + ahead * 30_000 });
    await call('PUT /me/second-factor', { ...ivo, body: { password: 'corallo-demo', secret, code: codeAt(0) } });
    await call('POST /me/recovery-codes', { ...ivo, body: { code: codeAt(1) } });
    await call('POST /me/second-factor/remove', ivo);
    as['ivo'] = { cookie: await sessionOf(app.origin, 'ivo'), origin: app.origin };
    const again = { as: as['ivo'] };
    const { sessions } = await call<{ sessions: { id: string; isThis: boolean }[] }>('GET /me/sessions', again);
    const other = sessions.find(({ isThis }) => !isThis) ?? sessions[0];
    await call('DELETE /me/sessions/{id}', { ...again, params: { id: other?.id ?? '' } });
    await call('DELETE /me/sessions', again);
    await call('POST /me/password', again);
  });

  it('gives every list in pages, each with the link to the next', async () => {
    const read = async (address: string, headers: Record<string, string>) => {
      const response = await fetch(new URL(address, app.origin), { headers: { ...headers, prefer: 'times=epoch' } });
      expect(response.status, `${address}: ${await response.clone().text()}`).to.equal(200);
      const next = /^<([^>]+)>; rel="next"$/.exec(response.headers.get('link') ?? '')?.[1] ?? null;
      return { body: (await response.json()) as Record<string, never[]>, next };
    };
    let pages = 0;
    for (const { method, path, list, right, scope } of operations) {
      if (list === null || path.includes('{')) continue;
      const who = scope === null && right !== 'anybody' ? as['ivo'] : client.headers;
      const query = path === '/lines' ? {} : (examples[`${method} ${path}`]?.query ?? {});
      const places = (body: Record<string, never[]>) =>
        // Reading who did what is written down itself.
        body[list.of]!.filter((one) => (one as { act?: string }).act !== 'GET /acts').map((one) => list.place(one));
      const whole = places((await read(`/api/v1${path}?${new URLSearchParams(query).toString()}`, who!)).body);
      const limit = Math.max(1, Math.ceil(whole.length / 3));
      const seen: unknown[] = [];
      let next: string | null = `/api/v1${path}?${new URLSearchParams({ ...query, limit: String(limit) }).toString()}`;
      while (next !== null && seen.length < whole.length) {
        const page: Awaited<ReturnType<typeof read>> = await read(next, who!);
        seen.push(...places(page.body));
        expect(page.body[list.of]!.length, path).to.be.at.most(limit);
        next = page.next;
        pages++;
      }
      expect(seen.slice(0, whole.length), path).to.deep.equal(whole);
      for (const place of [null, [9e15, 0], [9e15, 9e15, 0], [-1, 0], ['x', 0], [1, "' or 1=1", 0], [null, 0], [1]]) {
        const cursor = Buffer.from(JSON.stringify(place)).toString('base64url');
        const search = new URLSearchParams({ ...query, cursor }).toString();
        const { status } = await fetch(`${app.origin}/api/v1${path}?${search}`, { headers: who! });
        expect([200, 400], `${path} behind ${JSON.stringify(place)}`).to.include(status);
        if (place === null || place.length < 2) expect(status, path).to.equal(400);
      }
    }
    expect(pages).to.be.greaterThan(35);
  });

  it('is called from a shell, by what it describes', async () => {
    const shell = (...flags: string[]) => runShell(app.origin, ...flags);
    const { said: listed } = await shell('operations', 'backups/{id}');
    expect(listed)
      .to.match(/^postBackupsIdRehearse {2,}\S/m)
      .and.not.include('getBoards');
    const { said: described } = await shell('describe', 'postResourcesIdActs');
    expect(described)
      .to.include('POST /resources/{id}/acts')
      .and.include('  id=…  in the path\n')
      .and.include('"restart"');
    const file = join(app.data, 'folder.json');
    writeFileSync(file, '{ "name": "From a shell" }');
    const made = await shell('call', 'POST /folders', '--body', file);
    const folder = JSON.parse(made.said) as { id: number; name: string };
    expect([made.code, folder.name]).to.deep.equal([0, 'From a shell']);
    expect(await shell('call', 'deleteFoldersId', `id=${folder.id}`)).to.deep.equal({ code: 0, said: '' });
    for (const [flags, why] of [
      [['getFolder'], 'There is no operation getFolder. Alike are getFolders'],
      [['deleteFoldersId'], 'deleteFoldersId needs id=….'],
      [['getFolders', 'name=x'], 'getFolders has no parameter name.'],
      [['postFolders'], 'postFolders needs --body FILE'],
      [['deleteFoldersId', `id=${folder.id}`], 'There is no such folder'],
      [['getBackups'], 'Your role (editor) does not allow this.']
    ] as const) {
      const { code, said } = await shell('call', ...flags);
      expect([code, said], said).to.satisfy(() => code === 1 && said.startsWith(why));
    }
  });

  it('calls every operation that is described', () => {
    expect(client.names.filter((name) => !client.called.has(name))).to.deep.equal([]);
    expect(client.names.length).to.be.greaterThan(250);
  });
});
