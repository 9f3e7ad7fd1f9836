/**
 * An address within Bussola to go on to after signing in; the first page for anything that leads elsewhere. It is read as a browser reads it, which passes over tabs and line breaks and takes `\\` for `/`.
 *
 * @example addressWithin('/boards/3?range=PT3H', 'https://bussola.example.test') // '/boards/3?range=PT3H'
 * @example addressWithin('/\t/elsewhere.example', 'https://bussola.example.test') // '/'
 */
export function addressWithin(to: string | null, origin: string): string {
  if (to === null || !to.startsWith('/') || !URL.canParse(to, origin)) return '/';
  const url = new URL(to, origin);
  return url.origin === new URL(origin).origin ? url.pathname + url.search + url.hash : '/';
}
