/** Content types that a page of any site can send without asking first. */
const formTypes = ['application/x-www-form-urlencoded', 'multipart/form-data', 'text/plain'];

/**
 * Whether a request changes something and could have been sent by a form on another site's page, with this person's cookie: browsers say where a form comes from.
 *
 * @param origin Bussola's own
 * @example isForeignForm(request, 'https://bussola.example.test') // true for a form of elsewhere
 */
export function isForeignForm(request: Request, origin: string): boolean {
  if (['GET', 'HEAD', 'OPTIONS'].includes(request.method)) return false;
  const type = (request.headers.get('content-type') ?? '').split(';')[0]?.trim().toLowerCase() ?? '';
  return (type === '' || formTypes.includes(type)) && request.headers.get('origin') !== origin;
}
