/** Content types that a page of any site can send without asking first. */
const formTypes = ['application/x-www-form-urlencoded', 'multipart/form-data', 'text/plain'];

/** The media type of a request, in small letters and without parameters; empty when it has none. */
const mediaType = (request: Request): string =>
  (request.headers.get('content-type') ?? '').split(';')[0]?.trim().toLowerCase() ?? '';

const changes = ({ method }: Request): boolean => !['GET', 'HEAD', 'OPTIONS'].includes(method);

/**
 * Whether a request changes something and could have been sent by a form on another site's page, with this person's cookie: browsers say where a form comes from.
 *
 * @param origins at which Bussola is served
 * @example isForeignForm(request, ['https://bussola.example.test']) // true for a form of elsewhere
 */
export function isForeignForm(request: Request, origins: readonly string[]): boolean {
  if (!changes(request)) return false;
  const type = mediaType(request);
  return (type === '' || formTypes.includes(type)) && !origins.includes(request.headers.get('origin') ?? '');
}

/** Whether a request is a form that was filled in. */
export const isForm = (request: Request): boolean =>
  changes(request) && formTypes.slice(0, 2).includes(mediaType(request));
