import { json } from '@sveltejs/kit';
import { otlpSchema, readOtlp } from '$lib/core/receive';
import { admitted, keepReceived, NotTaken } from '$server/receive/receive';
import { decodeOtlp, encodeOtlpAnswer } from '$server/receive/otlp-protobuf';
import { bussola } from '$server/running';
import type { RequestHandler } from './$types';

/** OTLP/HTTP metrics, as JSON or protobuf; answers in kind, with a partial success where some points were not taken. */
export const POST: RequestHandler = async ({ request }) => {
  const isJson = (request.headers.get('content-type') ?? '').startsWith('application/json');
  try {
    const server = bussola();
    const { key, body } = await admitted(server, request, 'metrics');
    const read = otlpSchema.safeParse(messageOf(body, isJson));
    if (!read.success) {
      const issue = read.error.issues[0];
      throw new NotTaken(
        400,
        `The request cannot be read: ${issue?.path.join('.') ?? ''}: ${issue?.message ?? ''}.`,
        'Send OTLP metrics.'
      );
    }
    const { rejected, faults } = await keepReceived(server, key, readOtlp(read.data));
    const errorMessage = faults.join(' ');
    if (isJson)
      return json(
        rejected === 0 && errorMessage === ''
          ? {}
          : { partialSuccess: { rejectedDataPoints: String(rejected), errorMessage } }
      );
    return new Response(Buffer.from(encodeOtlpAnswer(rejected, errorMessage)), {
      headers: { 'content-type': 'application/x-protobuf' }
    });
  } catch (error) {
    if (!(error instanceof NotTaken)) throw error;
    return json({ code: error.status, message: `${error.message} ${error.remedy}` }, { status: error.status });
  }
};

function messageOf(body: Buffer, isJson: boolean): unknown {
  try {
    return isJson ? (JSON.parse(body.toString('utf8')) as unknown) : decodeOtlp(body);
  } catch (problem) {
    throw new NotTaken(
      400,
      `The body is no OTLP ${isJson ? 'JSON' : 'protobuf'}: ${problem instanceof Error ? problem.message : 'unreadable'}.`,
      'Send it as the content type says.'
    );
  }
}
