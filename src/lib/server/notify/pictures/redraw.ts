import { createCanvas, loadImage } from '@napi-rs/canvas';
import { imageSize } from 'image-size';

/** A picture as it was drawn anew. */
export interface Drawn {
  readonly kind: 'drawn';
  readonly width: number;
  readonly height: number;
  /** WebP. */
  readonly image: Uint8Array;
}
export type Redrawn = Drawn | { readonly kind: 'refused'; readonly why: string };

/** Kinds of files that are taken, by what their first bytes say. */
const taken = ['png', 'jpg', 'webp', 'gif'];
/** Pixels that a file may unfold to: a small file may hold a picture that fills the memory. */
const mostPixels = 40_000_000;
/** The longer side of what is stored. */
const longest = 1600;
const quality = 82;

/**
 * A picture from outside as one of our own: decoded, made smaller and drawn anew, so that nothing of the file but what is seen comes in.
 *
 * @example (await redrawn(await readFile('screen.png'))).kind // 'drawn'
 */
export async function redrawn(bytes: Uint8Array): Promise<Redrawn> {
  const size = sizeOf(bytes);
  if (size === null) return { kind: 'refused', why: 'This is no PNG, JPEG, WebP or GIF.' };
  if (size.width * size.height > mostPixels)
    return { kind: 'refused', why: `It has ${size.width} × ${size.height} pixels, which is too many.` };
  const loaded = await loadImage(Buffer.from(bytes)).catch(() => null);
  if (loaded === null || loaded.width === 0 || loaded.height === 0)
    return { kind: 'refused', why: 'The file is damaged: nothing can be drawn of it.' };
  const scale = Math.min(1, longest / Math.max(loaded.width, loaded.height));
  const width = Math.max(1, Math.round(loaded.width * scale));
  const height = Math.max(1, Math.round(loaded.height * scale));
  const canvas = createCanvas(width, height);
  canvas.getContext('2d').drawImage(loaded, 0, 0, width, height);
  return { kind: 'drawn', width, height, image: new Uint8Array(canvas.toBuffer('image/webp', quality)) };
}

function sizeOf(bytes: Uint8Array): { width: number; height: number } | null {
  try {
    const { type, width, height } = imageSize(bytes);
    return taken.includes(type ?? '') && width > 0 && height > 0 ? { width, height } : null;
  } catch {
    return null; // it throws for what it does not know
  }
}
