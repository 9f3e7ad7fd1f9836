import { createCanvas, loadImage } from '@napi-rs/canvas';
import { expect } from 'chai';
import { storeIncident } from '../../../../../tests/support/incidents';
import { withHouse } from '../../../../../tests/support/bussola';
import { addPicture, pictureOf } from '../../incidents/pictures';
import { pictures, type Pictures } from './pictures';
import { redrawn } from './redraw';

function png(width: number, height: number): Buffer {
  const canvas = createCanvas(width, height);
  const context = canvas.getContext('2d');
  context.fillStyle = '#a3195b';
  context.fillRect(0, 0, width, height);
  return canvas.toBuffer('image/png');
}
/** A PNG with a chunk of text in it, as cameras and editors write them. */
function withText(picture: Buffer, text: string): Buffer {
  const data = Buffer.from(`Comment\0${text}`, 'latin1');
  const chunk = Buffer.alloc(12 + data.length);
  chunk.writeUInt32BE(data.length, 0);
  chunk.write('tEXt', 4, 'latin1');
  data.copy(chunk, 8);
  return Buffer.concat([picture.subarray(0, 33), chunk, picture.subarray(33)]);
}
/** The first bytes of a PNG that says it is so large, and has nothing in it. */
function header(width: number, height: number): Buffer {
  const bytes = Buffer.from(png(1, 1));
  bytes.writeUInt32BE(width, 16);
  bytes.writeUInt32BE(height, 20);
  return bytes;
}

describe('pictures from outside', () => {
  const house = withHouse();
  let drawn: Pictures;
  before(() => (drawn = pictures()));
  after(() => drawn.close());
  const refusal = async (bytes: Uint8Array) => {
    const result = await redrawn(bytes);
    return result.kind === 'refused' ? result.why : 'drawn';
  };

  it('are drawn anew: what is seen stays, and nothing else that is in the file', async () => {
    const secret = 'taken at 45.4 N, 12.3 E';
    const result = await redrawn(withText(png(40, 20), secret));
    if (result.kind !== 'drawn') throw new Error(result.why);
    expect([result.width, result.height]).to.deep.equal([40, 20]);
    const bytes = Buffer.from(result.image);
    expect(bytes.subarray(0, 4).toString() + bytes.subarray(8, 12).toString()).to.equal('RIFFWEBP');
    expect(bytes.includes(secret)).to.equal(false);
    const seen = await loadImage(bytes);
    const canvas = createCanvas(1, 1);
    canvas.getContext('2d').drawImage(seen, 0, 0);
    const [red, green] = canvas.getContext('2d').getImageData(0, 0, 1, 1).data;
    expect([Math.abs((red ?? 0) - 0xa3) < 12, Math.abs((green ?? 0) - 0x19) < 12]).to.deep.equal([true, true]);
  });

  it('are 1600 pixels wide or high at most', async () => {
    const wide = await redrawn(png(3200, 100));
    const high = await redrawn(png(10, 4000));
    expect([wide, high].map((one) => (one.kind === 'drawn' ? [one.width, one.height] : one.why))).to.deep.equal([
      [1600, 50],
      [4, 1600]
    ]);
  });

  it('are refused where they are no picture, could do something, or would fill the memory', async () => {
    const none = 'This is no PNG, JPEG, WebP or GIF.';
    expect(await refusal(Buffer.alloc(0))).to.equal(none);
    expect(
      await refusal(Buffer.from('<svg xmlns="http://www.w3.org/2000/svg" width="9" height="9"><script/></svg>'))
    ).to.equal(none);
    expect(await refusal(Buffer.from('<html><script>alert(1)</script>'))).to.equal(none);
    expect(await refusal(header(60_000, 60_000))).to.equal('It has 60000 × 60000 pixels, which is too many.');
    expect(await refusal(png(30, 30).subarray(0, 60)), 'cut off').to.match(/damaged|no PNG/);
  });

  it('belong to the notes of one incident, fifty at most', async () => {
    const { db } = house.bussola;
    const id = await storeIncident(db, house.clock.now());
    const context = { ...house.bussola, drawn };
    const added = await addPicture(context, id, png(8, 8), 'Nerea Olmo');
    expect([added.width, added.height]).to.deep.equal([8, 8]);
    expect((await pictureOf(db, id, added.id))?.subarray(0, 4).toString()).to.equal('RIFF');
    expect(await pictureOf(db, id + 1, added.id), 'of another incident').to.equal(null);
    const code = (work: Promise<unknown>) =>
      work.then(
        () => 'added',
        (error: unknown) => (error as { code: string }).code
      );
    expect(await code(addPicture(context, 999_999, png(8, 8), 'x'))).to.equal('not-found');
    expect(await code(addPicture(context, id, Buffer.from('none'), 'x'))).to.equal('invalid');
    await db.rows(
      `insert into incident_pictures (incident_id, at, by, width, height, image)
       select $1, 1, 'x', 1, 1, '\\x00' from generate_series(1, 49)`,
      [id]
    );
    expect(await code(addPicture(context, id, png(8, 8), 'x')), 'the fifty-first').to.equal('invalid');
    await db.rows('delete from incidents where id = $1', [id]);
    expect(await db.rows('select 1 from incident_pictures'), 'they go with it').to.deep.equal([]);
  }).timeout(90_000);
});
