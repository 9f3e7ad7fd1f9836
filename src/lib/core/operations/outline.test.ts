import { expect } from 'chai';
import { z } from 'zod';
import { outlineOf } from './outline';

describe('what a request is made of, in lines', () => {
  const linesOf = (schema: z.ZodType) =>
    outlineOf(z.toJSONSchema(schema, { io: 'input' })).map(
      ({ depth, name, kind, isNeeded, says }) =>
        `${'  '.repeat(depth)}${name}: ${kind}${isNeeded ? '!' : ''}${says === '' ? '' : ` (${says})`}`
    );

  it('names parts, what they are, and which are needed', () => {
    const schema = z.strictObject({
      name: z.string().describe('As people call it.'),
      at: z.iso.datetime().nullable().default(null),
      of: z.array(z.strictObject({ is: z.enum(['above', 'below']), limit: z.int().min(1).max(9) })).optional(),
      by: z.record(z.string(), z.boolean())
    });
    expect(linesOf(schema)).to.deep.equal([
      'name: text! (As people call it.)',
      'at: text, date-time or null (null where it is left out.)',
      'of: list of object',
      '  is: "above" or "below"!',
      '  limit: integer from 1 to 9!',
      'by: object!',
      '  any name: true or false'
    ]);
  });

  it('shows each of several forms, and ends where nobody would read on', () => {
    const forms = z.union([z.strictObject({ kind: z.literal('a') }), z.strictObject({ kind: z.literal('b') })]);
    expect(linesOf(z.strictObject({ one: forms }))).to.deep.equal([
      ...['one: object!', '  : either', '    kind: "a"!', '  : or', '    kind: "b"!']
    ]);
    const deep = z.strictObject({ a: z.strictObject({ b: z.strictObject({ c: z.strictObject({ d: forms }) }) }) });
    expect(linesOf(deep).at(-1)).to.equal('      d: object! (Has more within.)');
    const wide = z.strictObject(Object.fromEntries(Array.from({ length: 200 }, (_, at) => [`p${at}`, z.string()])));
    expect(linesOf(wide)).to.have.length(161);
    expect(linesOf(wide).at(-1)).to.equal('…:  (40 more lines: see openapi.json.)');
  });
});
