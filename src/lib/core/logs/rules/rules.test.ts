import { expect } from 'chai';
import fc from 'fast-check';
import { instant } from '../../time';
import type { ArrivedLine } from '../arrive/gather';
import { noOrigin, type LogFields } from '../line';
import { applyRules, masked, maskOf, type RuleInForce } from './apply';
import { lineRuleSchema } from './line-rule';
import { secretKinds, secretsIn, type SecretKind } from './secrets';

const line = (text: string, fields: LogFields = {}): ArrivedLine => ({
  ...{ at: instant(0), nanos: 0, observed: null, severity: 9, severityText: '', text, fields, fieldsDropped: 0 },
  ...{ trace: '', span: '', flags: 0, event: '' }
});
const found = (kind: SecretKind, text: string) => secretsIn(kind, text).map(([from, to]) => text.slice(from, to));
const rule = (id: number, given: object): RuleInForce => ({ id, rule: lineRuleSchema.parse(given) });

describe('rules for lines', () => {
  describe('secrets', () => {
    it('tokens: after a scheme, of three parts, after a name that says so', () => {
      expect(found('token', 'authorization: Bearer abc.DEF-123456')).to.deep.equal(['abc.DEF-123456']);
      expect(found('token', 'got eyJhbGciOi.J9eyJzdWI.Q4c0a now')).to.deep.equal(['eyJhbGciOi.J9eyJzdWI.Q4c0a']);
      expect(found('token', 'login password="hunter22" ok')).to.deep.equal(['hunter22']);
      expect(found('token', 'api_key=4f9a-77, next')).to.deep.equal(['4f9a-77']);
      expect(found('token', 'the token was accepted')).to.deep.equal([]);
    });

    it('a token that is longer than what is looked at is masked to its end', () => {
      const long = 'a'.repeat(9000);
      expect(found('token', `bearer ${long} end`)).to.deep.equal([long]);
    });

    it('card numbers by their last digit', () => {
      expect(found('card-number', 'paid by 4111 1111 1111 1111 today')).to.deep.equal(['4111 1111 1111 1111']);
      expect(found('card-number', 'order 4111111111111112')).to.deep.equal([]);
      expect(found('card-number', 'took 0.4111111111111111 s')).to.deep.equal([]);
      expect(found('card-number', 'zeros 0000000000000000')).to.deep.equal([]);
    });

    it('addresses of mail and of networks, and no times of day', () => {
      expect(found('mail-address', 'to ines@corallo.test,')).to.deep.equal(['ines@corallo.test']);
      expect(found('network-address', 'from 203.0.113.9:443 and 300.1.1.1')).to.deep.equal(['203.0.113.9']);
      expect(found('network-address', 'from 2001:db8::7 at 12:30:45')).to.deep.equal(['2001:db8::7']);
      expect(found('network-address', 'version 1.2.3.4.5')).to.deep.equal([]);
    });

    it('every kind takes its time in proportion to what is read', () => {
      // Texts on which an unbounded pattern would look at every pair of places.
      const hard = ['a', '-eyJ', 'a@', 'a.', '1 ', '1.', ':', 'token ', 'token=', 'bearer ', 'ab:', 'a@b.'];
      for (const piece of hard)
        for (const kind of secretKinds) {
          const text = piece.repeat(Math.ceil(262_144 / piece.length));
          expect(secretsIn(kind, text).every(([from, to]) => from < to && to <= text.length)).to.equal(true);
        }
    }).timeout(90_000);

    it('what was masked has nothing of the kind any more', () => {
      const part = fc.constantFrom(
        ...['4111 1111 1111 1111', 'ines@corallo.test', '203.0.113.9', '2001:db8::7', 'password=hunter22'],
        ...['bearer abc.DEF-123456', ' ', ',', '=', 'token', ':', 'x', '7', '.', '"', '‹', '@']
      );
      fc.assert(
        fc.property(fc.array(part, { maxLength: 12 }), fc.constantFrom(...secretKinds), (parts, kind) => {
          const text = parts.join('');
          const mask = maskOf({ kind });
          const once = masked(text, mask);
          for (const [from, to] of secretsIn(kind, text)) {
            const secret = text.slice(from, to);
            if (kind === 'card-number' || kind === 'mail-address') expect(found(kind, once)).not.to.include(secret);
          }
          // Numbers with dots in a row are an address or none by what stands beside them, which a mask changes.
          if (kind !== 'network-address') expect(masked(once, mask), 'masking twice is masking once').to.equal(once);
        }),
        { numRuns: 2000 }
      );
    });
  });

  it('masks the text, the body, fields however deep, numbers and what a program says of itself', () => {
    const origin = { ...noOrigin, resource: { owner: 'ines@corallo.test' } };
    const arrived = {
      ...line('mail to ines@corallo.test', {
        list: ['x', { to: 'oda@corallo.test' }],
        count: 3n,
        ['__proto__']: 'ivo@corallo.test'
      }),
      body: { to: ['kaja@corallo.test'] }
    };
    const { batches, hits } = applyRules(
      [rule(4, { does: 'mask', name: 'Mail', masked: { kind: 'mail-address' } })],
      [{ origin, lines: [arrived, line('nothing')] }]
    );
    const [batch] = batches;
    expect(batch?.origin.resource).to.deep.equal({ owner: '‹mail address›' });
    expect(batch?.lines[0]?.text).to.equal('mail to ‹mail address›');
    expect(batch?.lines[0]?.body).to.deep.equal({ to: ['‹mail address›'] });
    expect(batch?.lines[0]?.fields['list']).to.deep.equal(['x', { to: '‹mail address›' }]);
    expect(batch?.lines[0]?.fields['count']).to.equal(3n);
    expect(
      JSON.stringify(batch, (_, value: unknown) => (typeof value === 'bigint' ? String(value) : value))
    ).not.to.contain('@corallo');
    expect(hits).to.deep.equal({ 4: 2 });
  });

  it('masks a field whole whose name says that it is a secret, and a card that came as a number', () => {
    const { batches } = applyRules(
      [
        rule(1, { does: 'mask', name: 'T', masked: { kind: 'token' } }),
        rule(2, { does: 'mask', name: 'C', masked: { kind: 'card-number' } })
      ],
      [{ origin: noOrigin, lines: [line('x', { 'db.password': 'a', card: 4111111111111111n, tokens: 7 })] }]
    );
    expect(batches[0]?.lines[0]?.fields).to.deep.equal({ 'db.password': '‹token›', card: '‹card number›', tokens: 7 });
  });

  it('masks the first group of an expression, or all of it', () => {
    expect(masked('ticket=A7 by x', maskOf({ kind: 'expression', expression: 'ticket=(\\w+)' }))).to.equal(
      'ticket=‹masked› by x'
    );
    expect(masked('A7 and B8', maskOf({ kind: 'expression', expression: '[A-Z]\\d' }))).to.equal(
      '‹masked› and ‹masked›'
    );
    expect(masked('ab', maskOf({ kind: 'expression', expression: 'a(x)?b' }))).to.equal('ab');
  });

  it('leaves out what a search finds, decided on what arrived, and counts it', () => {
    const { batches, hits, leftOut } = applyRules(
      [
        rule(1, { does: 'mask', name: 'M', masked: { kind: 'mail-address' } }),
        rule(2, { does: 'leave-out', name: 'L', search: 'who = ines@corallo.test or answers' })
      ],
      [
        {
          origin: noOrigin,
          lines: [line('a', { who: 'ines@corallo.test' }), line('answers its check'), line('stays')]
        }
      ]
    );
    expect(batches[0]?.lines.map(({ text }) => text)).to.deep.equal(['stays']);
    expect(hits).to.deep.equal({ 2: 2 });
    expect(leftOut).to.equal(2);
  });

  it('refuses what leaves everything out, what cannot be read, and an expression that matches nothing', () => {
    for (const bad of [
      { does: 'leave-out', name: 'x', search: ' ' },
      { does: 'leave-out', name: 'x', search: '(' },
      { does: 'mask', name: 'x', masked: { kind: 'expression', expression: '(' } },
      { does: 'mask', name: 'x', masked: { kind: 'expression', expression: 'a*' } },
      { does: 'mask', name: ' ', masked: { kind: 'token' } }
    ])
      expect(lineRuleSchema.safeParse(bad).success, JSON.stringify(bad)).to.equal(false);
  });
});
