import { error, json } from '@sveltejs/kit';
import { admitted } from '$server/intake/receive/admit';
import { isNotTaken } from '$server/intake/receive/not-taken';
import { keepReceived } from '$server/intake/receive/receive';
import { bussola } from '$server/process/running';
import type { RequestHandler } from './$types';

const formats = ['openmetrics', 'ndjson', 'csv'] as const;

/** Takes samples as OpenMetrics text, CSV or newline-delimited JSON; says how many were taken, how many were refused for which reason, and what is wrong with them, line by line. */
export const POST: RequestHandler = async ({ request, params }) => {
  const format = formats.find((one) => one === params.format);
  if (format === undefined)
    error(404, {
      message: `There is no format "${params.format.slice(0, 40)}".`,
      remedy: `Send ${formats.join(', ')}.`
    });
  try {
    const server = bussola();
    const { key, body, isGzip } = await admitted(server, request, 'metrics');
    const received = await server.reading.receive({ format, body, isGzip, now: server.clock.now() });
    const taken = await keepReceived(server, key, received);
    return json(taken, { status: taken.accepted === 0 && taken.rejected > 0 ? 422 : 200 });
  } catch (problem) {
    if (!isNotTaken(problem)) throw problem;
    const { message, remedy, status } = problem;
    const headers: Record<string, string> = status === 503 || status === 429 ? { 'retry-after': '10' } : {};
    return json({ message, remedy }, { status, headers });
  }
};
