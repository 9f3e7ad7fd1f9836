/** The longer side of what is sent, as the server stores it. */
const longest = 1600;
/** Files below this are sent as they are, bytes. */
const smallEnough = 500_000;

/**
 * A picture in base64, made smaller where it is large: what comes from a phone may have many megabytes.
 *
 * @throws when the browser cannot read it
 */
export async function smallerOf(file: File): Promise<string> {
  const picture = await createImageBitmap(file);
  const scale = Math.min(1, longest / Math.max(picture.width, picture.height));
  if (file.size <= smallEnough) return base64Of(await file.arrayBuffer());
  const canvas = new OffscreenCanvas(Math.round(picture.width * scale), Math.round(picture.height * scale));
  canvas.getContext('2d')?.drawImage(picture, 0, 0, canvas.width, canvas.height);
  picture.close();
  const blob = await canvas.convertToBlob({ type: 'image/webp', quality: 0.9 });
  return base64Of(await blob.arrayBuffer());
}

function base64Of(buffer: ArrayBuffer): string {
  const bytes = new Uint8Array(buffer);
  let text = '';
  // In parts: a call takes only so many arguments.
  for (let at = 0; at < bytes.length; at += 32_768) text += String.fromCharCode(...bytes.subarray(at, at + 32_768));
  return btoa(text);
}
