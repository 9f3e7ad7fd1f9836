import protobuf from 'protobufjs/light.js';

/**
 * The part of the OTLP definitions (opentelemetry-proto 1.x, collector/metrics/v1, metrics/v1, collector/logs/v1 and logs/v1) that is read and answered here: field numbers are theirs. Fields that
 * are not named are passed over, as protobuf says.
 */
const types: Record<string, Record<string, readonly [id: number, type: string, rule?: 'repeated']>> = {
  Request: { resourceMetrics: [1, 'ResourceMetrics', 'repeated'] },
  ResourceMetrics: { resource: [1, 'Resource'], scopeMetrics: [2, 'ScopeMetrics', 'repeated'] },
  Resource: { attributes: [1, 'KeyValue', 'repeated'], droppedAttributesCount: [2, 'uint32'] },
  ScopeMetrics: { scope: [1, 'Scope'], metrics: [2, 'Metric', 'repeated'] },
  Scope: {
    name: [1, 'string'],
    version: [2, 'string'],
    attributes: [3, 'KeyValue', 'repeated'],
    droppedAttributesCount: [4, 'uint32']
  },
  KeyValue: { key: [1, 'string'], value: [2, 'AnyValue'] },
  AnyValue: {
    stringValue: [1, 'string'],
    boolValue: [2, 'bool'],
    intValue: [3, 'int64'],
    doubleValue: [4, 'double'],
    arrayValue: [5, 'ArrayValue'],
    kvlistValue: [6, 'KeyValueList'],
    bytesValue: [7, 'bytes']
  },
  ArrayValue: { values: [1, 'AnyValue', 'repeated'] },
  KeyValueList: { values: [1, 'KeyValue', 'repeated'] },
  Metric: {
    name: [1, 'string'],
    description: [2, 'string'],
    unit: [3, 'string'],
    gauge: [5, 'Gauge'],
    sum: [7, 'Sum'],
    histogram: [9, 'Histogram'],
    exponentialHistogram: [10, 'ExponentialHistogram'],
    summary: [11, 'Summary']
  },
  Gauge: { dataPoints: [1, 'NumberPoint', 'repeated'] },
  Sum: { dataPoints: [1, 'NumberPoint', 'repeated'], aggregationTemporality: [2, 'int32'], isMonotonic: [3, 'bool'] },
  NumberPoint: {
    startTimeUnixNano: [2, 'fixed64'],
    timeUnixNano: [3, 'fixed64'],
    asDouble: [4, 'double'],
    asInt: [6, 'sfixed64'],
    attributes: [7, 'KeyValue', 'repeated'],
    flags: [8, 'uint32']
  },
  Histogram: { dataPoints: [1, 'HistogramPoint', 'repeated'], aggregationTemporality: [2, 'int32'] },
  HistogramPoint: {
    startTimeUnixNano: [2, 'fixed64'],
    timeUnixNano: [3, 'fixed64'],
    count: [4, 'fixed64'],
    sum: [5, 'double'],
    bucketCounts: [6, 'fixed64', 'repeated'],
    explicitBounds: [7, 'double', 'repeated'],
    attributes: [9, 'KeyValue', 'repeated'],
    flags: [10, 'uint32'],
    min: [11, 'double'],
    max: [12, 'double']
  },
  ExponentialHistogram: { dataPoints: [1, 'Nothing', 'repeated'] },
  Nothing: {},
  Summary: { dataPoints: [1, 'SummaryPoint', 'repeated'] },
  SummaryPoint: {
    startTimeUnixNano: [2, 'fixed64'],
    timeUnixNano: [3, 'fixed64'],
    count: [4, 'fixed64'],
    sum: [5, 'double'],
    quantileValues: [6, 'Quantile', 'repeated'],
    attributes: [7, 'KeyValue', 'repeated'],
    flags: [8, 'uint32']
  },
  Quantile: { quantile: [1, 'double'], value: [2, 'double'] },
  LogsRequest: { resourceLogs: [1, 'ResourceLogs', 'repeated'] },
  ResourceLogs: { resource: [1, 'Resource'], scopeLogs: [2, 'ScopeLogs', 'repeated'], schemaUrl: [3, 'string'] },
  ScopeLogs: { scope: [1, 'Scope'], logRecords: [2, 'LogRecord', 'repeated'], schemaUrl: [3, 'string'] },
  LogRecord: {
    timeUnixNano: [1, 'fixed64'],
    severityNumber: [2, 'int32'],
    severityText: [3, 'string'],
    body: [5, 'AnyValue'],
    attributes: [6, 'KeyValue', 'repeated'],
    droppedAttributesCount: [7, 'uint32'],
    flags: [8, 'fixed32'],
    traceId: [9, 'bytes'],
    spanId: [10, 'bytes'],
    observedTimeUnixNano: [11, 'fixed64'],
    eventName: [12, 'string']
  },
  LogsResponse: { partialSuccess: [1, 'LogsPartialSuccess'] },
  LogsPartialSuccess: { rejectedLogRecords: [1, 'int64'], errorMessage: [2, 'string'] },
  Response: { partialSuccess: [1, 'PartialSuccess'] },
  PartialSuccess: { rejectedDataPoints: [1, 'int64'], errorMessage: [2, 'string'] },
  /** google.rpc.Status, in which refusals are reported (OTLP/HTTP, "Failures"). */
  Status: { code: [1, 'int32'], message: [2, 'string'] }
};

/** Proto3 `optional` and `oneof` members: only those tell a 0 that was sent from one that was not. */
const presence: Record<string, readonly string[]> = {
  AnyValue: ['stringValue', 'boolValue', 'intValue', 'doubleValue', 'bytesValue'],
  NumberPoint: ['asDouble', 'asInt'],
  HistogramPoint: ['sum', 'min', 'max']
};

const root = protobuf.Root.fromJSON({
  nested: Object.fromEntries(
    Object.entries(types).map(([name, fields]) => [
      name,
      {
        oneofs: Object.fromEntries((presence[name] ?? []).map((field) => [`_${field}`, { oneof: [field] }])),
        fields: Object.fromEntries(
          Object.entries(fields).map(([field, [id, type, rule]]) => [
            field,
            {
              id,
              type,
              ...(rule ? { rule } : {}),
              ...(presence[name]?.includes(field) ? { options: { proto3_optional: true } } : {})
            }
          ])
        )
      }
    ])
  )
});
const request = root.lookupType('Request');
const response = root.lookupType('Response');
const logsRequest = root.lookupType('LogsRequest');
const logsResponse = root.lookupType('LogsResponse');
const status = root.lookupType('Status');

/** A request as it would be in JSON. @throws when the bytes are no such message */
export const decodeOtlp = (bytes: Uint8Array): unknown =>
  request.toObject(request.decode(bytes), { longs: String, bytes: String, arrays: true, json: false });

/** A request of lines as it would be in JSON, but for its ids, which are base64. @throws when the bytes are no such message */
export const decodeOtlpLogs = (bytes: Uint8Array): unknown =>
  logsRequest.toObject(logsRequest.decode(bytes), { longs: String, bytes: String, arrays: true, json: false });

/** The answer to lines: empty when all was taken, else how many were not and why. */
export const encodeOtlpLogsAnswer = (rejected: number, message: string): Uint8Array =>
  logsResponse
    .encode(
      rejected === 0 && message === ''
        ? {}
        : { partialSuccess: { rejectedLogRecords: rejected, errorMessage: message } }
    )
    .finish();

/** The answer: empty when all was taken, else how many points were not and why. */
export const encodeOtlpAnswer = (rejected: number, message: string): Uint8Array =>
  response
    .encode(
      rejected === 0 && message === ''
        ? {}
        : { partialSuccess: { rejectedDataPoints: rejected, errorMessage: message } }
    )
    .finish();

/** A refusal as protobuf. @param code of gRPC: 3 for what cannot be read, 8 for too much, 16 without a key */
export const encodeOtlpStatus = (code: number, message: string): Uint8Array =>
  status.encode({ code, message }).finish();
