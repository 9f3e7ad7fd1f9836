import { error, json } from '@sveltejs/kit';
import { parse } from 'csv-parse/sync';
import { readJsonLines, readOpenMetrics, readRecords, type Received } from '$lib/core/receive';
import { admitted, keepReceived, NotTaken } from '$server/receive/receive';
import { bussola } from '$server/running';
import type { RequestHandler } from './$types';

const formats: Readonly<Record<string, (text: string, now: number) => Received>> = {
  openmetrics: readOpenMetrics,
  ndjson: readJsonLines,
  csv: (text) => readRecords(recordsOf(text))
};

/** Takes samples as OpenMetrics text, CSV or newline-delimited JSON; says how many were taken and what is wrong with the others, line by line. */
export const POST: RequestHandler = async ({ request, params }) => {
  const read = formats[params.format];
  if (!read)
    error(404, {
      message: `There is no format "${params.format}".`,
      remedy: `Send ${Object.keys(formats).join(', ')}.`
    });
  try {
    const server = bussola();
    const { key, body } = await admitted(server, request, 'metrics');
    const taken = await keepReceived(server, key, read(body.toString('utf8'), server.clock.now()));
    return json(taken, { status: taken.accepted === 0 && taken.faults.length > 0 ? 422 : 200 });
  } catch (problem) {
    if (!(problem instanceof NotTaken)) throw problem;
    return json({ message: problem.message, remedy: problem.remedy }, { status: problem.status });
  }
};

function recordsOf(text: string): { line: number; cells: string[] }[] {
  try {
    const rows = parse(text, {
      info: true,
      relax_column_count: true,
      bom: true,
      skip_empty_lines: true
    }) as unknown as { record: string[]; info: { lines: number } }[];
    return rows.map(({ record, info }) => ({ line: info.lines, cells: record }));
  } catch (problem) {
    throw new NotTaken(
      400,
      `The table cannot be read: ${problem instanceof Error ? problem.message : 'unreadable'}.`,
      'Send CSV (RFC 4180) with a header.'
    );
  }
}
