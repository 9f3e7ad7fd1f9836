import { answerOtlp, otlpFormat, otlpMediaTypes } from '$server/http/otlp-answer';
import { encodeOtlpAnswer } from '$server/parsing/otlp-protobuf';
import { admitted } from '$server/intake/receive/admit';
import { storeReceived } from '$server/intake/receive/receive';
import { bussola } from '$server/process/running';
import type { RequestHandler } from './$types';

/** OTLP/HTTP metrics, as JSON or protobuf; answers in kind, with a partial success where some points were not taken. */
export const POST: RequestHandler = ({ request }) =>
  answerOtlp(request, async () => {
    const server = bussola();
    const { key, body, isGzip, mediaType } = await admitted(server, request, 'metrics', otlpMediaTypes);
    const received = await server.parsers.receive({
      format: otlpFormat(mediaType),
      ...{ body, isGzip, now: server.clock.now() }
    });
    const { rejected, faults } = await storeReceived(server, key, received);
    const message = faults.join(' ');
    return {
      ...{ rejected, message },
      asJson: () => ({ rejectedDataPoints: String(rejected), errorMessage: message }),
      asProtobuf: () => encodeOtlpAnswer(rejected, message)
    };
  });
