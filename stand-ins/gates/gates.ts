// The ticket gates of Corallo Lines: each shows its metrics as an OpenMetrics page, and one program lists them all.
import type { FastifyInstance } from 'fastify';
import { loadOf } from '../world/load';
import { rounded, seriesKey, wander } from '../world/noise';
import type { StandInClock } from '../clock';

/** Gates by name, with the pier at which they stand. */
export const gates = {
  'gate-perla-1': 'perla',
  'gate-perla-2': 'perla',
  'gate-sella-1': 'sella',
  'gate-dorsale-1': 'dorsale',
  'gate-capra-1': 'capra',
  'gate-vela-1': 'vela'
} as const;
type GateName = keyof typeof gates;

/** The one that is being rebuilt: it answers that it is not ready. */
const rebuilt: GateName = 'gate-capra-1';
/** What signs in at a gate and at the list. */
export const gateToken = 'demo-only-gates-71c0';
/** Tickets that a gate checks a second at a load of 1. */
const scansPerSecond = 1.4;

const isGate = (name: string): name is GateName => Object.hasOwn(gates, name);

/** Tickets checked since the stand-in began, by gate: a counter that goes on with each request. */
class Turnstile {
  #total = 0;
  #until: number;

  constructor(readonly startedAt: number) {
    this.#until = startedAt;
  }

  /** The total up to a moment: the load in steps of a minute at most. */
  upTo(moment: number): number {
    while (this.#until < moment) {
      const next = Math.min(moment, this.#until + 60_000);
      this.#total += (loadOf('gate', this.#until) * scansPerSecond * (next - this.#until)) / 1000;
      this.#until = next;
    }
    return Math.floor(this.#total);
  }
}

/** Pages of gates below `/gates/`, and their list at `/gates/pages.json`; both ask for {@link gateToken}. */
export function gatePages(
  app: FastifyInstance,
  { seed, clock }: { seed: number; clock: StandInClock },
  done: () => void
): void {
  const turnstiles = new Map<GateName, Turnstile>();
  for (const name of Object.keys(gates) as GateName[]) turnstiles.set(name, new Turnstile(clock()));
  const isKnown = (authorization: string | undefined): boolean => authorization === `Bearer ${gateToken}`;
  app.get('/gates/pages.json', (request, reply) => {
    if (!isKnown(request.headers.authorization)) return reply.status(401).send();
    const origin = `http://${request.headers.host}`;
    const targets = Object.entries(gates).map(([name, site]) => ({
      url: `${origin}/gates/${name}/metrics`,
      name,
      labels: { site }
    }));
    return reply.send({ targets });
  });
  app.get('/gates/:name/metrics', (request, reply) => {
    const { name } = request.params as { name: string };
    if (!isKnown(request.headers.authorization)) return reply.status(401).send();
    if (!isGate(name)) return reply.status(404).send();
    if (name === rebuilt) return reply.status(503).send('being rebuilt\n');
    const total = turnstiles.get(name)?.upTo(clock()) ?? 0;
    return reply
      .type('application/openmetrics-text; version=1.0.0; charset=utf-8')
      .send(pageOf(seed, name, clock(), total));
  });
  done();
}

function pageOf(seed: number, name: GateName, moment: number, total: number): string {
  const wandering = (what: string): number => wander(seriesKey(seed, `${name} ${what}`), moment);
  const refused = Math.floor(total * 0.013);
  return `# TYPE gate_scans counter
# HELP gate_scans Tickets that the gate checked.
gate_scans_total{result="accepted",firmware="4.2"} ${total - refused}
gate_scans_total{result="refused",firmware="4.2"} ${refused}
# TYPE gate_waiting gauge
# HELP gate_waiting People who wait before the gate.
gate_waiting{firmware="4.2"} ${Math.round(loadOf('gate', moment) * 9 * (0.6 + 0.8 * wandering('waiting')))}
# TYPE gate_temperature_celsius gauge
# UNIT gate_temperature_celsius celsius
# HELP gate_temperature_celsius Temperature within the gate.
gate_temperature_celsius{firmware="4.2"} ${rounded(31 + 9 * wandering('temperature'), 1)}
# TYPE gate_debug_frames counter
# HELP gate_debug_frames Frames of the camera.
gate_debug_frames_total{firmware="4.2"} ${Math.floor(moment / 40) % 1_000_000_000}
# EOF
`;
}
