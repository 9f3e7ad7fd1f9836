import { Refusal } from '$lib/core/problem/problem';
import { json } from '@sveltejs/kit';
import { encodeOtlpStatus } from '../parsing/otlp-protobuf';

const protobuf = 'application/x-protobuf';
/** Media types in which OTLP/HTTP is sent. */
export const otlpMediaTypes = ['application/json', protobuf];

/** What was not taken of a request, and how that is said in each form. */
export interface OtlpAnswer {
  readonly rejected: number;
  readonly message: string;
  readonly asJson: () => object;
  readonly asProtobuf: () => Uint8Array;
}

/**
 * Answers an OTLP/HTTP request in the form in which it was sent: all or a part of it was taken, or it is refused, with a status that a sender understands.
 *
 * Source: OpenTelemetry, OTLP specification, "OTLP/HTTP Response".
 */
export async function answerOtlp(request: Request, take: () => Promise<OtlpAnswer>): Promise<Response> {
  const isProtobuf = (request.headers.get('content-type') ?? '').trim().toLowerCase().startsWith(protobuf);
  try {
    const { rejected, message, asJson, asProtobuf } = await take();
    if (isProtobuf) return binary(asProtobuf(), 200);
    return json(rejected === 0 && message === '' ? {} : { partialSuccess: asJson() });
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
}

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

/** Which of the two forms a media type is. @example otlpFormat('application/x-protobuf') // 'otlp-protobuf' */
export const otlpFormat = (mediaType: string): 'otlp-protobuf' | 'otlp-json' =>
  mediaType === protobuf ? 'otlp-protobuf' : 'otlp-json';
