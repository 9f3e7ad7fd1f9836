import { gzipSync } from 'node:zlib';
import { expect } from 'chai';
import { isRefused } from '../../core/problem/problem';
import { readFocusFile } from './focus-file';

const header = 'BilledCost,BillingCurrency,ChargeCategory,ChargePeriodStart,ChargePeriodEnd,ServiceName,Tags';
const row = (cost: string) =>
  `${cost},EUR,Usage,2026-11-03T00:00:00Z,2026-11-04T00:00:00Z,Databases,"{""a"":""b, c""}"`;
const bytes = (text: string) => new Uint8Array(Buffer.from(text));

async function read(file: Uint8Array, isGzip = false) {
  const amounts: number[] = [];
  const found = await readFocusFile(file, isGzip, ({ entries }) => {
    amounts.push(...entries.map(({ billed }) => billed));
    return null;
  });
  return { ...found, amounts };
}
const refusal = async (file: Uint8Array, isGzip = false): Promise<string> => {
  try {
    await read(file, isGzip);
    return 'read';
  } catch (error) {
    if (!isRefused(error)) throw error;
    return `${error.code}: ${error.message}`;
  }
};

describe('a FOCUS file', () => {
  it('is read, packed or not, with a byte order mark or not, and whichever way its lines end', async () => {
    for (const text of [
      `${header}\n${row('1.5')}\n${row('2')}`,
      `\ufeff${header}\r\n${row('1.5')}\r\n\r\n${row('2')}\r\n`
    ]) {
      expect(await read(bytes(text))).to.deep.equal({
        rows: 2,
        rejected: { count: 0, first: [] },
        amounts: [1_500_000, 2_000_000]
      });
      expect((await read(gzipSync(text), true)).amounts).to.deep.equal([1_500_000, 2_000_000]);
    }
  });

  it('costs a row that is wrong that row alone, and names it by its line; of very many the first', async () => {
    const text = [header, row('1'), row('ten'), row('2')].join('\n');
    const found = await read(bytes(text));
    expect(found.amounts).to.deep.equal([1_000_000, 2_000_000]);
    expect(found.rejected).to.deep.equal({ count: 1, first: [{ line: 3, why: 'BilledCost is "ten": not a number.' }] });
    const many = await read(bytes([header, ...Array.from({ length: 500 }, () => row('ten'))].join('\n')));
    expect([many.rejected.count, many.rejected.first.length]).to.deep.equal([500, 100]);
  });

  it('that is none is refused with the reason, wherever it is damaged', async () => {
    expect(await refusal(bytes('a,b\n1,2'))).to.contain('unreadable: The column BilledCost is missing.');
    expect(await refusal(bytes(`${header}\n"${'x'.repeat(300_000)}`))).to.match(/^unreadable: The file is no CSV/);
    const packed = gzipSync([header, ...Array.from({ length: 2000 }, (_, index) => row(`${index}`))].join('\n'));
    for (const cut of [12, packed.length >> 1, packed.length - 4])
      expect(await refusal(packed.subarray(0, cut), true), `${cut}`).to.equal(
        'unreadable: The file is damaged: it cannot be unpacked.'
      );
    expect(await refusal(bytes('no gzip'), true)).to.match(/^unreadable: The file is damaged/);
  });

  it('that would unpack to more than there is room for is refused, however small it is packed', async () => {
    const packed = gzipSync(`${header}\n${`${row('1')}\n`.repeat(50_000)}`);
    const limits = { bytes: 2 * 1024 ** 2, rows: 1000 };
    const taken: number[] = [];
    const takeOne = () => {
      taken.push(1);
      return null;
    };
    const refused = async (some: typeof limits) => {
      const reading = readFocusFile(packed, true, takeOne, some);
      return reading.then(
        () => 'read',
        (error: Error) => error.message
      );
    };
    expect(await refused({ ...limits, rows: 1_000_000 })).to.equal('The file has more than 2 MiB unpacked.');
    taken.length = 0;
    expect(await refused({ ...limits, bytes: 1e9 })).to.equal('The file has more than 1000 rows.');
    expect(taken).to.have.length(1000);
  });
});
