// Draws pictures for messages in a thread of its own: the web server stays responsive meanwhile.
import { move } from 'piscina';
import { drawPicture, type PictureFacts } from './draw';
import { redrawn, type Redrawn } from './redraw';

export default function draw(facts: PictureFacts): unknown {
  const png = drawPicture(facts);
  return move(png.buffer.slice(png.byteOffset, png.byteOffset + png.byteLength) as ArrayBuffer);
}

/** What was uploaded, drawn anew. */
export const redraw = (bytes: Uint8Array): Promise<Redrawn> => redrawn(bytes);
