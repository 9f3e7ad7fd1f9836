import { answerOtlp, otlpFormat, otlpMediaTypes } from '$server/http/otlp-answer';
import { encodeOtlpLogsAnswer } from '$server/parsing/otlp-protobuf';
import { admitted } from '$server/intake/receive/admit';
import { keepReceived, readReceived } from '$server/logs/receive-lines';
import { bussola } from '$server/process/running';
import type { RequestHandler } from './$types';

/** OTLP/HTTP logs, as JSON or protobuf; answers in kind, with a partial success where some lines were not taken, or not whole. */
export const POST: RequestHandler = ({ request }) =>
  answerOtlp(request, async () => {
    const server = bussola();
    const { key, body, isGzip, mediaType } = await admitted(server, request, 'logs', otlpMediaTypes);
    const received = await readReceived(server, key, { format: otlpFormat(mediaType), body, isGzip });
    const { rejected, faults } = await keepReceived(server, key, received);
    const message = faults.join(' ');
    return {
      ...{ rejected, message },
      asJson: () => ({ rejectedLogRecords: String(rejected), errorMessage: message }),
      asProtobuf: () => encodeOtlpLogsAnswer(rejected, message)
    };
  });
