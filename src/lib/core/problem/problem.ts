/**
 * Every reason for which something is refused or fails, by a code that does not change, with the HTTP status it is answered with and what it means. Programs go by the code, never by the
 * words of a message.
 */
export const problemCodes = {
  // What was sent
  invalid: { status: 400, title: 'The request does not fit its schema.' },
  unreadable: { status: 400, title: 'The body cannot be read as the format that it claims to be.' },
  'not-signed-in': { status: 401, title: 'The request needs a sign-in or a key.' },
  'key-refused': { status: 401, title: 'The key is missing, unknown, revoked or expired, or lacks the scope.' },
  'not-allowed': { status: 403, title: 'The person, or the scope of the key, does not permit it.' },
  'not-found': { status: 404, title: 'There is no such thing, or it may not be seen.' },
  'method-not-allowed': { status: 405, title: 'The address does not take this method.' },
  'name-taken': { status: 409, title: 'Another one has this name or address.' },
  'changed-meanwhile': { status: 409, title: 'Somebody else changed it after it was read.' },
  'not-as-read': { status: 412, title: 'It is not as it was when it was read (If-Match).' },
  'key-reused': { status: 422, title: 'The Idempotency-Key stood for another request.' },
  'still-going': { status: 409, title: 'The first request with this Idempotency-Key has not ended.' },
  'not-confirmed': { status: 409, title: 'The channel is not confirmed.' },
  'in-use': { status: 409, title: 'Something else still uses it.' },
  'too-large': { status: 413, title: 'It is more than is taken at once.' },
  'media-type': { status: 415, title: 'The content type or encoding is not supported here.' },
  // What was requested
  'signal-invalid': { status: 422, title: 'The signal cannot be evaluated.' },
  'formula-invalid': { status: 422, title: 'The formula cannot be read.' },
  'pattern-invalid': { status: 422, title: 'The pattern of fields cannot be read.' },
  'search-invalid': { status: 422, title: 'The search cannot be read.' },
  'unknown-metric': { status: 422, title: 'No such metric is known.' },
  'too-many-cells': { status: 422, title: 'The answer would have too many cells.' },
  'too-much-at-once': { status: 422, title: 'The queries together ask for more than one request may.' },
  'board-full': { status: 422, title: 'The board has as many panels as it may have.' },
  'link-limits': { status: 422, title: 'The link shows less than was asked for.' },
  'alarm-parts': { status: 422, title: 'The parts that an alarm combines are missing, off, or go round in a circle.' },
  'incident-closed': { status: 409, title: 'The incident is clear already.' },
  'route-missing': { status: 422, title: 'The route does not exist.' },
  cancelled: { status: 499, title: 'Nobody waits for the answer any more.' },
  // How much, how often
  'too-many-requests': { status: 429, title: 'Too many requests are waiting; try again later.' },
  'limit-reached': { status: 429, title: 'The key has sent as much as it may today.' },
  offline: { status: 503, title: 'Bussola could not be reached.' },
  // The server
  internal: { status: 500, title: 'Bussola failed. The log has the reason.' },
  busy: { status: 503, title: 'Too much is waiting to be read; try again later.' },
  'disk-low': { status: 503, title: 'The disk has too little room to store samples.' },
  // Starting
  configuration: { status: 500, title: 'A setting is not usable.' },
  'stored-unreadable': { status: 500, title: 'Something that is stored does not fit its schema.' },
  'data-folder': { status: 500, title: 'The data folder cannot be used.' },
  'newer-data': { status: 500, title: 'The data were written by a newer version.' },
  'secrets-key': { status: 500, title: 'The key of the secrets is missing or another one.' },
  'backup-unreadable': { status: 422, title: 'The file is no backup, was cut short or was changed.' },
  'backup-differs': { status: 500, title: 'What was restored is not what was backed up.' },
  'database-taken': { status: 409, title: 'There is something in the database or folder already.' },
  'database-stopped': { status: 500, title: 'The embedded database has stopped itself.' },
  // Providers
  unreachable: { status: 502, title: 'The provider could not be reached.' },
  clock: { status: 502, title: 'The clocks of Bussola and the provider differ.' },
  signature: { status: 502, title: 'The provider refused the credential.' },
  permission: { status: 502, title: 'The credential lacks a right at the provider.' },
  throttled: { status: 502, title: 'The provider asks to slow down.' },
  unavailable: { status: 502, title: 'The provider has a failure of its own.' },
  malformed: { status: 502, title: 'The provider sent what cannot be read.' },
  refused: { status: 502, title: 'The provider refused the request.' },
  paused: { status: 502, title: 'Calls to the provider are paused for a moment, after many failures.' },
  // Samples that were pulled
  'refused-values': { status: 502, title: 'The provider sent values that are no numbers.' }
} as const satisfies Readonly<Record<string, { readonly status: number; readonly title: string }>>;

export type ProblemCode = keyof typeof problemCodes;

/** Keys and positions in lists, from the outside in. */
export type Path = readonly (string | number)[];

/** Where in a text something stands: [from, to) in characters. */
export type TextSpan = readonly [from: number, to: number];

/** One of several things that are wrong with what was sent. */
export interface FieldProblem {
  /** Keys and positions in lists from the outside in, joined by dots. */
  readonly path: string;
  /** In a text of several lines, from 1; null when the place is not in the text. */
  readonly line?: number | null;
  readonly message: string;
}

/** What a person or a program is refused: what happened and why, and what to do about it. */
export interface Problem {
  readonly code: ProblemCode;
  readonly message: string;
  readonly remedy: string;
  /** What it is about, within what was sent. */
  readonly path?: Path;
  /** The place in the text at the path. */
  readonly place?: TextSpan;
  /** Everything that is wrong, where that is more than one thing. */
  readonly problems?: readonly FieldProblem[];
}

/** Where a problem lies, as far as it is known. */
interface Whereabouts extends ErrorOptions {
  readonly path?: Path | undefined;
  readonly place?: TextSpan | null | undefined;
  readonly problems?: readonly FieldProblem[] | undefined;
}

/**
 * A {@link Problem} on its way to whoever is refused: thrown where it is known, answered unchanged.
 *
 * @example throw new Refusal('name-taken', 'There is already a signal named Load.', 'Choose another name.')
 */
export class Refusal extends Error implements Problem {
  override readonly name: string = 'Refusal';
  readonly path?: Path;
  readonly place?: TextSpan;
  readonly problems?: readonly FieldProblem[];

  constructor(
    readonly code: ProblemCode,
    message: string,
    readonly remedy: string,
    { path, place, problems, ...options }: Whereabouts = {}
  ) {
    super(message, options);
    if (path !== undefined) this.path = path;
    if (place !== undefined && place !== null) this.place = place;
    if (problems !== undefined) this.problems = problems;
  }

  /** The status with which a request is answered. */
  get status(): number {
    return problemCodes[this.code].status;
  }
}

/** A refusal as data that crosses the border of a thread, or goes into an answer. @example problemOf(error).code // 'signal-invalid' */
export const problemOf = ({ code, message, remedy, path, place, problems }: Problem): Problem => ({
  code,
  message,
  remedy,
  ...(path !== undefined && { path }),
  ...(place !== undefined && { place }),
  ...(problems !== undefined && { problems })
});

/** The refusal of a problem that was data. */
export const refusalOf = ({ code, message, remedy, ...where }: Problem): Refusal =>
  new Refusal(code, message, remedy, where);

/** Whether an error is a refusal, for any of some reasons when these are given. @example isRefused(error, 'disk-low') */
export const isRefused = (error: unknown, ...codes: readonly ProblemCode[]): error is Refusal =>
  error instanceof Refusal && (codes.length === 0 || codes.includes(error.code));
