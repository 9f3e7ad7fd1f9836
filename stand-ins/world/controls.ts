import type { FastifyInstance } from 'fastify';
import type { StandInClock } from '../clock';
import { page, safe } from '../page';
import { actModes, isActMode } from './act-kinds';
import { refuse } from './answers';
import { isFaultMode, faultModes } from './fault-modes';
import type { ProviderState } from './state';

/** A resource that can be stressed. */
export interface ControlResource {
  readonly id: string;
  readonly name: string;
  readonly place: string;
  readonly metrics: readonly { readonly name: string; readonly title: string }[];
}

export interface ControlOptions {
  /** The provider's key in addresses, and its name. */
  readonly path: string;
  readonly title: string;
  readonly clock: StandInClock;
  readonly state: ProviderState;
  readonly resources: readonly ControlResource[];
}

/** A provider's page for people: every resource with a form to stress it, and the provider's fault mode. */
export function controls(app: FastifyInstance, options: ControlOptions, done: () => void): void {
  const { path, state, clock, resources } = options;
  app.get(`/${path}`, (request, reply) => {
    const { done: said } = request.query as Record<string, string>;
    return reply.type('text/html').send(controlsPage(options, clock(), said));
  });

  app.post(`/${path}/controls/stress`, (request, reply) => {
    const { resource = '', metric = '', value = '', minutes = '' } = request.body as Record<string, string>;
    const now = clock();
    const found = resources.find(({ id }) => id === resource);
    const length = Number(minutes);
    const drawnTo = value === 'silence' ? null : Number(value);
    const known = metric === 'all' || found?.metrics.some(({ name }) => name === metric);
    if (!found || !known || !(length > 0 && length <= 1440) || Number.isNaN(drawnTo) || value === '')
      return refuse(reply, 400, 'stress', 'Give a resource, a metric, a value and 1 to 1440 minutes.') ?? reply;
    state.stress({ resource, metric, value: drawnTo, from: now, until: now + length * 60_000 });
    return reply.redirect(`/${path}?done=${encodeURIComponent(`${found.name} is stressed for ${length} min.`)}`, 303);
  });

  app.post(`/${path}/controls/relieve`, (request, reply) => {
    state.relieve(String((request.body as Record<string, string>).resource), clock());
    return reply.redirect(`/${path}?done=The%20stress%20was%20stopped.`, 303);
  });

  app.post(`/${path}/controls/faultMode`, (request, reply) => {
    const { faultMode } = request.body as Record<string, string>;
    if (!isFaultMode(faultMode))
      return refuse(reply, 400, 'faultMode', `There is no fault mode "${String(faultMode)}".`) ?? reply;
    state.faultMode = faultMode;
    return reply.redirect(`/${path}`, 303);
  });
  app.post(`/${path}/controls/actMode`, (request, reply) => {
    const { actMode } = request.body as Record<string, string>;
    if (!isActMode(actMode)) return refuse(reply, 400, 'actMode', `There is no "${String(actMode)}".`) ?? reply;
    state.actMode = actMode;
    return reply.redirect(`/${path}`, 303);
  });
  done();
}

const optionsOf = (modes: Readonly<Record<string, string>>, chosen: string): string =>
  Object.entries(modes)
    .map(
      ([mode, meaning]) =>
        `<option value="${mode}"${mode === chosen ? ' selected' : ''}>${safe(`${mode}: ${meaning}`)}</option>`
    )
    .join('');

function controlsPage({ path, title, state, resources }: ControlOptions, now: number, said?: string): string {
  const done = said ? `<p class="note" role="status">${safe(said)}</p>` : '';
  const rows = resources.map(({ id, name, place, metrics }) => {
    const active = state.stresses.filter((s) => s.resource === id && s.from <= now && s.until > now);
    const running = active.map(
      (s) =>
        `${s.metric} ${s.value === null ? 'silent' : `at ${s.value}`} until ${new Date(s.until).toISOString().slice(11, 16)} UTC`
    );
    const relieve = active.length
      ? `<form method="post" action="/${path}/controls/relieve"><input type="hidden" name="resource" value="${safe(id)}"><button>Stop</button></form>`
      : '';
    const options = metrics.map((metric) => `<option value="${metric.name}">${safe(metric.title)}</option>`).join('');
    return `<tr id="${safe(id)}"><td><b>${safe(name)}</b><br><span class="quiet">${safe(place)}</span></td>
<td><form method="post" action="/${path}/controls/stress"><input type="hidden" name="resource" value="${safe(id)}">
<select name="metric" aria-label="Metric of ${safe(name)}">${options}<option value="all">everything</option></select>
<input name="value" aria-label="Value of ${safe(name)}" value="95" size="6" title="A number in the metric's unit, or the word silence">
for <input name="minutes" aria-label="Minutes of ${safe(name)}" type="number" min="1" max="1440" value="15"> min
<button>Stress ${safe(name)}</button></form></td><td>${safe(running.join('; '))} ${relieve}</td></tr>`;
  });
  return page(
    `${title}, a simulated provider`,
    `${done}<p>The time at ${safe(title)} is ${safe(new Date(now).toISOString())}. Set a metric of a resource to a value for some minutes, or type <code>silence</code> to stop its samples.</p>
<form method="post" action="/${path}/controls/faultMode"><label>Fault mode of the provider <select name="faultMode">${optionsOf(faultModes, state.faultMode)}</select></label><button>Set</button></form>
<form method="post" action="/${path}/controls/actMode"><label>When something is to be done <select name="actMode">${optionsOf(actModes, state.actMode)}</select></label><button>Set</button></form>
<h2>Resources</h2><table><thead><tr><th>Resource</th><th>Stress</th><th>Now</th></tr></thead><tbody>${rows.join('')}</tbody></table>`
  );
}
