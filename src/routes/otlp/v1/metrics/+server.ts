import { Refusal } from '$lib/core/problem/problem';
import { json } from '@sveltejs/kit';
import { encodeOtlpAnswer, encodeOtlpStatus } from '$server/parsing/otlp-protobuf';
import { admitted } from '$server/intake/receive/admit';
import { storeReceived } from '$server/intake/receive/receive';
import { bussola } from '$server/process/running';
import type { RequestHandler } from './$types';

const protobuf = 'application/x-protobuf';
const mediaTypes = ['application/json', protobuf];

/** OTLP/HTTP metrics, as JSON or protobuf; answers in kind, with a partial success where some points were not taken. */
export const POST: RequestHandler = async ({ request }) => {
  const isProtobuf = (request.headers.get('content-type') ?? '').trim().toLowerCase().startsWith(protobuf);
  try {
    const server = bussola();
    const { key, body, isGzip, mediaType } = await admitted(server, request, 'metrics', mediaTypes);
    const format = mediaType === protobuf ? 'otlp-protobuf' : 'otlp-json';
    const received = await server.parsers.receive({ format, body, isGzip, now: server.clock.now() });
    const { rejected, faults } = await storeReceived(server, key, received);
    const errorMessage = faults.join(' ');
    if (isProtobuf) return binary(encodeOtlpAnswer(rejected, errorMessage), 200);
    const isWhole = rejected === 0 && errorMessage === '';
    return json(isWhole ? {} : { partialSuccess: { rejectedDataPoints: String(rejected), errorMessage } });
  } catch (error) {
    if (!(error instanceof Refusal)) throw error;
    const { status } = error;
    const code = grpcCodes.get(status) ?? 2;
    const message = `${error.message} ${error.remedy}`;
    const headers: Record<string, string> = status === 503 || status === 429 ? { 'retry-after': '10' } : {};
    return isProtobuf
      ? binary(encodeOtlpStatus(code, message), status, headers)
      : json({ code, message }, { status, headers });
  }
};

/** Codes of google.rpc.Status for statuses of HTTP. */
const grpcCodes: ReadonlyMap<number, number> = new Map([
  [400, 3],
  [401, 16],
  [413, 8],
  [415, 3],
  [429, 8],
  [503, 14]
]);

const binary = (bytes: Uint8Array, status: number, headers: Record<string, string> = {}): Response =>
  new Response(Buffer.from(bytes), { status, headers: { ...headers, 'content-type': protobuf } });
