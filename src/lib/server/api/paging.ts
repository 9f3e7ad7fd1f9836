import { z } from 'zod';
import { Refusal } from '$lib/core/problem/problem';

/** What tells where an item stands in its list. */
type Place = readonly (string | number)[];

/** A list in an answer, of which a request may have one page after the other. */
export interface PagedList {
  /** Its name in the answer. */
  readonly of: string;
  /** Items of a page where a request says nothing; null for all of them. */
  readonly usual: number | null;
  readonly most: number;
  /** Whether what it does reads the page by itself; otherwise it gives all, of which the page is taken. */
  readonly isRead: boolean;
  place(item: never): Place;
}

/** The page that is asked for. */
export interface Page {
  readonly limit: number;
  /** Where the last item of the page before stands; null for the first page. */
  readonly after: Place | null;
}

interface Identified {
  readonly id?: string | number;
  readonly version?: number;
  readonly name?: string;
}
const ownPlace = ({ id, version, name }: Identified): Place => [id ?? version ?? name ?? ''];

/** A list that is known as a whole. @example wholeList('signals') */
export const wholeList = (of: string, place: (item: never) => Place = ownPlace): PagedList => ({
  ...{ of, usual: null, most: 1000, isRead: false, place }
});

/** A list of which a page is read. @example readList('events', { usual: 100, most: 1000 }) */
export const readList = (
  of: string,
  {
    usual,
    most,
    place = ownPlace
  }: { readonly usual: number; readonly most: number; readonly place?: (item: never) => Place }
): PagedList => ({ of, usual, most, isRead: true, place });

/** What a request may say of the page that it wants. */
export const pageQuery = ({ usual, most }: PagedList) => ({
  limit: z.coerce
    .number()
    .int()
    .min(1)
    .max(most)
    .optional()
    .describe(`Items of a page: ${usual === null ? 'all of them' : usual} by default.`),
  cursor: z.string().max(600).optional().describe('Where the page before ended: see the header Link of its answer.')
});

const cursorSchema = z
  .array(z.union([z.string().max(300), z.number()]))
  .min(2)
  .max(6);

/**
 * The page that a query asks for.
 *
 * @throws Refusal `invalid` for what is no cursor
 */
export function pageOf({ usual, most }: PagedList, query: Readonly<Record<string, unknown>>): Page {
  const { limit = usual ?? Infinity, cursor } = query as { limit?: number; cursor?: string };
  // One without a limit of its own goes on in pages of the usual length.
  const length = cursor === undefined ? limit : Math.min(limit, most);
  return { limit: length, after: cursor === undefined ? null : placeFrom(cursor) };
}

function placeFrom(cursor: string): Place {
  try {
    const read = cursorSchema.safeParse(JSON.parse(Buffer.from(cursor, 'base64url').toString('utf8')));
    if (read.success) return read.data;
  } catch (error) {
    if (!(error instanceof SyntaxError)) throw error;
  }
  throw noCursor();
}

/** What a cursor of another list is refused with. */
export const noCursor = (): Refusal =>
  new Refusal('invalid', 'This is no cursor of this list.', 'Follow the header Link of the page before.', {
    path: ['cursor']
  });

/**
 * Where the last item of the page before stands, as numbers: what a list of so many of them goes on from.
 *
 * @throws Refusal `invalid` for a cursor of another list
 */
export function placeOf<Count extends 1 | 2>(
  { after }: Page,
  count: Count
): (Count extends 1 ? readonly [number] : readonly [number, number]) | null {
  if (after === null) return null;
  const place = after.slice(0, count);
  if (after.length !== count + 1 || !place.every((part) => Number.isSafeInteger(part) && (part as number) >= 0))
    throw noCursor();
  return place as unknown as Count extends 1 ? readonly [number] : readonly [number, number];
}

const isSame = (one: Place, other: Place): boolean => one.every((part, at) => part === other[at]);

/**
 * An answer with one page of its list.
 *
 * @param answered with all of the list, or with the page where that was read
 * @returns the cursor of the next page; null where this is the last one
 */
export function pagedAnswer(
  list: PagedList,
  answered: object,
  { limit, after }: Page
): { answer: object; next: string | null } {
  const items = (answered as Record<string, readonly never[]>)[list.of];
  if (items === undefined) throw new Error(`an answer has no list ${list.of}`);
  if (list.isRead) {
    // One more than is asked for would say whether there are more; a page that is full may be followed by an empty one.
    const last = items.length < limit ? undefined : items.at(-1);
    return { answer: answered, next: last === undefined ? null : cursorTo([...list.place(last), 0]) };
  }
  const start = after === null ? 0 : startBehind(items, list, after);
  const page = items.slice(start, start + limit);
  const last = start + page.length < items.length ? page.at(-1) : undefined;
  return {
    answer: { ...answered, [list.of]: page },
    next: last === undefined ? null : cursorTo([...list.place(last), start + page.length - 1])
  };
}

/** Where the next page begins. Items above may have come or gone meanwhile, so it is sought near where it stood; where it is gone, those behind it have moved up by one. */
function startBehind(items: readonly never[], list: PagedList, after: Place): number {
  const stood = after.at(-1);
  if (!Number.isSafeInteger(stood) || (stood as number) < 0) throw noCursor();
  const distance = (at: number): number => Math.abs(at - (stood as number));
  let found: number | null = null;
  for (const [at, item] of items.entries())
    if (isSame(list.place(item), after) && (found === null || distance(at) < distance(found))) found = at;
  return found === null ? (stood as number) : found + 1;
}

const cursorTo = (place: Place): string => Buffer.from(JSON.stringify(place)).toString('base64url');

/** The header by which a client goes on (RFC 8288). @example nextLink(new URL('https://b.example.test/api/v1/events'), 'WzFd') // '<https://b.example.test/api/v1/events?cursor=WzFd>; rel="next"' */
export function nextLink(url: URL, cursor: string): string {
  const next = new URL(url);
  next.searchParams.set('cursor', cursor);
  return `<${next.href}>; rel="next"`;
}
