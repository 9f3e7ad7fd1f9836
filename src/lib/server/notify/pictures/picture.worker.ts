// Draws pictures for messages in a thread of its own: the web server stays responsive meanwhile.
import { move } from 'piscina';
import { drawPicture, type PictureFacts } from './draw';

export default function draw(facts: PictureFacts): unknown {
  const png = drawPicture(facts);
  return move(png.buffer.slice(png.byteOffset, png.byteOffset + png.byteLength) as ArrayBuffer);
}
