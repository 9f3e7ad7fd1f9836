import { linesOf, type WorldLine } from '../stand-ins/world/lines/line';
import { worldStreams } from '../stand-ins/world/lines/streams';
import { encodeBatch, noOrigin, type ArrivedLine, type LogValue } from '../src/lib/core/logs';
import { instant } from '../src/lib/core/time';
import type { Database } from '../src/lib/server/db/pool';
import { oneRow } from '../src/lib/server/db/pool';
import type { Arriving } from '../src/lib/server/logs/log-store';

export const begin = Date.UTC(2026, 4, 4);
export const day = 86_400_000;
const seed = 1;

/** A line of the world as it arrives. */
export function arrived({ at, severity, text, fields }: WorldLine): ArrivedLine {
  const typed: Record<string, LogValue> = {};
  for (const name in fields) {
    const value = fields[name] ?? '';
    typed[name] = typeof value === 'number' && Number.isInteger(value) ? BigInt(value) : value;
  }
  return {
    at: instant(at),
    nanos: 0,
    observed: null,
    severity,
    severityText: '',
    text,
    fields: typed,
    fieldsDropped: 0,
    trace: '',
    span: '',
    flags: 0,
    event: ''
  };
}

/** A line as a file of lines would have it. */
export const rawLine = ({ at, severity, text, fields }: WorldLine): string =>
  [
    new Date(at).toISOString(),
    severity,
    text,
    ...Object.entries(fields).map(([name, value]) => `${name}=${value}`)
  ].join(' ');

/** The demo's lines of a span, stream by stream. */
export const worldLines = (from: number, to: number, times = 1): { stream: string; lines: WorldLine[] }[] =>
  worldStreams.map((stream) => ({
    stream: stream.name,
    lines: linesOf(stream, { seed, start: begin + 14 * day }, from, to, times)
  }));

/** An account that lines can be of. */
export const accountOf = async (db: Database): Promise<number> =>
  oneRow(
    await db.rows<{ id: number }>(
      `insert into accounts (name, provider, endpoint, key_id, secret_sealed, created_at, created_by, history_from)
       values ('corallo-prod', 'pushed', '', '', '', $1, 'bench', $1)
       returning id`,
      [begin]
    )
  ).id;

export const arriving = (accountId: number, stream: string, lines: readonly WorldLine[]): Arriving => ({
  ...{ accountId, service: 'functions', stream, resourceId: null },
  batch: encodeBatch(noOrigin, lines.map(arrived))
});
