import { page, safe } from '../page';
import { moods } from './moods';
import type { LevanteState } from './state';
import { machines, metrics } from './world';

/** Levante's page for people: every machine with a form to stress it, and the provider's mood. */
export function levantePage(state: LevanteState, now: number, query: Record<string, string>): string {
  const done = query.done ? `<p class="note" role="status">${safe(query.done)}</p>` : '';
  const choices = Object.entries(moods).map(
    ([mood, meaning]) =>
      `<option value="${mood}"${mood === state.mood ? ' selected' : ''}>${safe(`${mood}: ${meaning}`)}</option>`
  );
  const metricChoices = metrics.map(({ name, title }) => `<option value="${name}">${safe(title)}</option>`).join('');
  const rows = machines.map(({ id, name, account, region }) => {
    const active = state.stresses.filter((s) => s.resource === id && s.from <= now && s.until > now);
    const told = active.map(
      (s) =>
        `${s.metric} ${s.value === null ? 'silent' : `at ${s.value}`} until ${new Date(s.until).toISOString().slice(11, 16)} UTC`
    );
    const relieve = active.length
      ? `<form method="post" action="/levante/desk/relieve"><input type="hidden" name="resource" value="${id}"><button>End it</button></form>`
      : '';
    return `<tr id="${id}"><td><b>${safe(name)}</b><br><span class="quiet">${safe(account)}, ${safe(region)}</span></td>
<td><form method="post" action="/levante/desk/stress"><input type="hidden" name="resource" value="${id}">
<select name="metric" aria-label="Metric of ${safe(name)}">${metricChoices}<option value="all">everything</option></select>
<input name="value" aria-label="Value of ${safe(name)}" value="95" size="6" title="A number in the metric's unit, or the word silence">
for <input name="minutes" aria-label="Minutes of ${safe(name)}" type="number" min="1" max="1440" value="15"> min
<button>Stress ${safe(name)}</button></form></td><td>${safe(told.join('; '))} ${relieve}</td></tr>`;
  });
  return page(
    'Levante, a simulated provider',
    `${done}<p>It is ${safe(new Date(now).toISOString())} at Levante. Draw a metric of a machine to a value for some minutes, or write <code>silence</code> to stop it reporting.</p>
<form method="post" action="/levante/desk/mood"><label>Mood of the provider <select name="mood">${choices.join('')}</select></label><button>Set</button></form>
<h2>Machines</h2><table><thead><tr><th>Machine</th><th>Stress</th><th>Now</th></tr></thead><tbody>${rows.join('')}</tbody></table>`
  );
}
