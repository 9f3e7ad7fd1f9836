import fc from 'fast-check';
import { noOrigin, type Line, type LogFields, type LogValue, type Origin } from '../../src/lib/core/logs';
import { instant } from '../../src/lib/core/time';

const begin = 1_777_881_600_000;

/** A line, some seconds after the tests begin. */
export const lineAt = (seconds: number, text: string, more: Partial<Line> = {}): Line => ({
  at: instant(begin + Math.round(seconds * 1000)),
  nanos: 0,
  observed: null,
  severity: 9,
  severityText: '',
  text,
  fields: {},
  fieldsDropped: 0,
  trace: '',
  span: '',
  flags: 0,
  event: '',
  origin: noOrigin,
  resourceId: null,
  ...more
});

const text = fc.string({ unit: 'grapheme', maxLength: 20 }).map((one) => one.toWellFormed());
const { value } = fc.letrec<{ value: LogValue }>((tie) => ({
  value: fc.oneof(
    { maxDepth: 2 },
    text,
    fc.boolean(),
    fc.constant(null),
    fc.bigInt({ min: -(2n ** 63n), max: 2n ** 63n - 1n }),
    fc.double(),
    fc.uint8Array({ maxLength: 5 }),
    fc.array(tie('value'), { maxLength: 3 }),
    fc.dictionary(text, tie('value'), { maxKeys: 3 })
  )
}));
const name = fc.constantFrom('node', 'user.id', 'duration_ms', '__proto__', 'constructor', 'größe');
const fields: fc.Arbitrary<LogFields> = fc
  .array(fc.tuple(name, value), { maxLength: 4 })
  .map((entries) => Object.fromEntries(entries));
const hex = (digits: number) =>
  fc.string({ unit: fc.constantFrom(...'0123456789abcdef'), minLength: digits, maxLength: digits });
const nanos = fc.oneof(
  fc.constant(0),
  fc.integer({ min: 0, max: 999 }).map((one) => one * 1000),
  fc.nat(999_999)
);
const at = fc.integer({ min: begin, max: begin + 3_600_000 }).map(instant);
const origin: fc.Arbitrary<Origin> = fc.record({
  resource: fields,
  resourceDropped: fc.nat(3),
  resourceSchema: text,
  scope: fc.record({ name: text, version: text, fields, dropped: fc.nat(3) }),
  scopeSchema: text
});

/** Texts as programs write them: of a few shapes, with numbers, sizes, addresses and names in them, and some of no shape. */
export const anyText: fc.Arbitrary<string> = fc.oneof(
  fc.tuple(fc.nat(99_999), fc.nat(500)).map(([order, ms]) => `order ${order} paid in ${ms} ms`),
  fc.tuple(fc.nat(255), fc.nat(9)).map(([host, n]) => `request from 10.0.3.${host} took 0.0${n} s`),
  fc.constantFrom('PER-SEL', 'SEL-PER', 'AMB-ROC').map((route) => `served fare ${route} in 18 ms`),
  fc.nat(59).map((second) => `2026-05-04T14:00:${String(second).padStart(2, '0')}Z level=info msg="pulled seats"`),
  fc.constant('starting, 512 MiB'),
  text
);

/** Lines of any kind, in no order. */
export const anyLine: fc.Arbitrary<Line> = fc.record({
  at,
  nanos,
  observed: fc.option(fc.record({ at, nanos })),
  severity: fc.nat(24),
  severityText: fc.constantFrom('', 'INFO', 'warning', 'E'),
  text: anyText,
  fields,
  fieldsDropped: fc.nat(2),
  trace: fc.oneof(fc.constant(''), hex(32)),
  span: fc.oneof(fc.constant(''), hex(16)),
  flags: fc.nat(1),
  event: fc.constantFrom('', 'container.killed'),
  origin: fc.oneof(fc.constant(noOrigin), origin),
  resourceId: fc.option(fc.integer({ min: 1, max: 500 }))
});
