import { z } from 'zod';
import type { StoredForm } from '../../forms/stored';
import { dateAfter, dateAt, firstInstantAt, type Instant } from '../../time';
import type { Route, Target } from './route';

/** What happened to an incident that people may hear of. */
const newsKinds = ['opened', 'graver', 'closed'] as const;
export type NewsKind = (typeof newsKinds)[number];

/** What the messages of a thread are decided on: incidents that one route has and that are grouped together. Times are when Bussola recorded what happened. */
export interface Thread {
  /** Incidents that are open, and whether somebody has acknowledged each. */
  readonly open: readonly { readonly incidentId: number; readonly acknowledged: boolean }[];
  /** What no message has said yet, in order. */
  readonly pending: readonly { readonly incidentId: number; readonly kind: NewsKind; readonly at: Instant }[];
  /** Steps that have been taken since something was last raised that nobody had acknowledged. */
  readonly steps: number;
  /** Steps whose people know of what is open: they hear as well when it is clear again. */
  readonly reached: number;
  /** When the first message of the steps was due; null before it. */
  readonly stepsSince: Instant | null;
  /** When a message was last due; null before any. */
  readonly sentAt: Instant | null;
}

/** Something that happens to a thread: `ended` is that an incident is over without anybody having to hear of it. */
export interface ThreadEvent {
  readonly kind: NewsKind | 'acknowledged' | 'unacknowledged' | 'ended';
  readonly incidentId: number;
  readonly at: Instant;
}

/** A message that is to be sent. */
export interface ThreadMessage {
  /** Why: something new, the next people, once more, or what a digest gathers. */
  readonly why: 'news' | 'step' | 'repeat' | 'digest';
  /** When it was due. */
  readonly at: Instant;
  readonly to: readonly Target[];
  /** What it says that is new. */
  readonly news: Thread['pending'];
  /** All that is open and that nobody has acknowledged. */
  readonly open: readonly number[];
}

export const emptyThread: Thread = { open: [], pending: [], steps: 0, reached: 0, stepsSince: null, sentAt: null };

const moment = z.int().transform((ms) => ms as Instant);
const id = z.int().positive();
const count = z.int().min(0);

/** How a thread is stored. */
export const threadForm: StoredForm<Thread> = {
  what: 'What was decided on messages',
  version: 1,
  schema: z.strictObject({
    open: z.array(z.strictObject({ incidentId: id, acknowledged: z.boolean() })),
    pending: z.array(z.strictObject({ incidentId: id, kind: z.enum(newsKinds), at: moment })),
    steps: count,
    reached: count,
    stepsSince: moment.nullable(),
    sentAt: moment.nullable()
  }),
  upgrades: []
};

/** Whether a thread can be forgotten: nothing is open or to be said, and its last message holds up no other. */
export const isOver = ({ open, pending, sentAt }: Thread, { group }: Route, now: Instant): boolean =>
  open.length === 0 && pending.length === 0 && (sentAt === null || now - sentAt >= group.atMostEvery);

/**
 * A thread after something happened to one of its incidents. Of one that closes before anybody was notified that it is open, its opening stays pending, so that people hear of both at once.
 *
 * @example afterEvent(emptyThread, { kind: 'opened', incidentId: 7, at }, route).pending // [{ incidentId: 7, kind: 'opened', at }]
 */
export function afterEvent(thread: Thread, event: ThreadEvent, route: Route): Thread {
  const { incidentId, at, kind } = event;
  const others = thread.open.filter((one) => one.incidentId !== incidentId);
  if (kind === 'acknowledged' || kind === 'unacknowledged') {
    if (others.length === thread.open.length) return thread;
    return settled({ ...thread, open: [...others, { incidentId, acknowledged: kind === 'acknowledged' }] });
  }
  if (kind === 'ended') {
    const pending = thread.pending.filter((one) => one.incidentId !== incidentId);
    return settled({ ...thread, open: others, pending });
  }
  const isNews =
    kind !== 'closed' || route.notifiesClear || thread.pending.some((one) => one.incidentId === incidentId);
  const pending = isNews ? [...thread.pending, { incidentId, kind, at }] : thread.pending;
  if (kind === 'closed') return settled({ ...thread, open: others, pending });
  const known = thread.open.find((one) => one.incidentId === incidentId);
  // What becomes graver asks for somebody anew.
  return {
    ...thread,
    open: [...others, { incidentId, acknowledged: kind === 'graver' ? false : (known?.acknowledged ?? false) }],
    pending
  };
}

/**
 * A thread whose next step is taken at an instant, as when nobody of the steps before can be reached.
 *
 * @returns the same thread where no step is left
 * @example nextDue(hastened(thread, route, at), route) // at
 */
export function hastened(thread: Thread, { steps }: Route, at: Instant): Thread {
  const next = steps[thread.steps];
  return next === undefined || thread.stepsSince === null
    ? thread
    : { ...thread, stepsSince: (at - next.after) as Instant };
}

/** Once nothing is left that nobody has acknowledged, steps begin anew with whatever comes next. */
const settled = (thread: Thread): Thread =>
  needsSomebody(thread) ? thread : { ...thread, steps: 0, stepsSince: null };

/** Whether something is open that nobody has acknowledged. */
const needsSomebody = ({ open }: Thread): boolean => open.some(({ acknowledged }) => !acknowledged);

/**
 * When the next message of a thread is due.
 *
 * @returns null for none, until something happens
 * @example nextDue(emptyThread, route) // null
 */
export const nextDue = (thread: Thread, route: Route): Instant | null => {
  const all = [newsDue(thread, route), stepDue(thread, route), repeatDue(thread, route)];
  const due = all.filter((at) => at !== null);
  return due.length === 0 ? null : (Math.min(...due) as Instant);
};

/**
 * The messages of a thread that are due by an instant, in order, and the thread after them. However late it is asked, each message counts from when it was due; several repetitions that were missed are one.
 *
 * @example dueMessages(thread, route, now).messages // [{ why: 'news', … }]
 */
export function dueMessages(
  thread: Thread,
  route: Route,
  now: Instant
): { readonly thread: Thread; readonly messages: readonly ThreadMessage[] } {
  const messages: ThreadMessage[] = [];
  let after = thread;
  for (let at = nextDue(after, route); at !== null && at <= now; at = nextDue(after, route)) {
    const made = messageAt(after, route, at);
    messages.push(made.message);
    after = made.message.why === 'repeat' ? withoutMissed(made.thread, route, now) : made.thread;
  }
  return { thread: after, messages };
}

/** A thread whose last message is a repetition, as if all were made that would have followed it by now, before anything else is due. */
function withoutMissed(thread: Thread, route: Route, now: Instant): Thread {
  const sentAt = thread.sentAt as Instant;
  const interval = (repeatDue(thread, route) as Instant) - sentAt;
  const others = [newsDue(thread, route), stepDue(thread, route)].filter((at) => at !== null);
  const until = Math.min(now, ...others.map((at) => at - 1));
  const missed = Math.max(0, Math.floor((until - sentAt) / interval));
  return { ...thread, sentAt: (sentAt + missed * interval) as Instant };
}

function newsDue({ pending, sentAt }: Thread, { group, digestAt, zone }: Route): Instant | null {
  const [first] = pending;
  if (first === undefined) return null;
  if (digestAt !== null) return nextTimeOfDay(first.at, digestAt, zone);
  const soonest = first.at + group.wait;
  return Math.max(soonest, sentAt === null ? soonest : sentAt + group.atMostEvery) as Instant;
}

function stepDue(thread: Thread, { steps }: Route): Instant | null {
  const next = steps[thread.steps];
  if (thread.stepsSince === null || next === undefined || !needsSomebody(thread)) return null;
  return (thread.stepsSince + next.after) as Instant;
}

function repeatDue(thread: Thread, { repeatEvery, group }: Route): Instant | null {
  if (repeatEvery === null || thread.steps === 0 || thread.sentAt === null || !needsSomebody(thread)) return null;
  return (thread.sentAt + Math.max(repeatEvery, group.atMostEvery)) as Instant;
}

function messageAt(thread: Thread, route: Route, at: Instant): { message: ThreadMessage; thread: Thread } {
  const open = thread.open.filter(({ acknowledged }) => !acknowledged).map(({ incidentId }) => incidentId);
  if (newsDue(thread, route) === at) {
    const hasClosed = thread.pending.some(({ kind }) => kind === 'closed');
    const takesFirst = thread.steps === 0 && needsSomebody(thread);
    const steps = takesFirst ? 1 : thread.steps;
    const message: ThreadMessage = {
      ...{ why: route.digestAt === null ? 'news' : 'digest', at, open, news: thread.pending },
      to: targetsOf(route, Math.max(1, steps, hasClosed ? thread.reached : 0))
    };
    const stepsSince = takesFirst ? at : thread.stepsSince;
    const reached = thread.open.length === 0 ? 0 : Math.max(thread.reached, steps, 1);
    return { message, thread: { ...thread, pending: [], steps, reached, stepsSince, sentAt: at } };
  }
  if (stepDue(thread, route) === at) {
    const to = route.steps[thread.steps]?.notify ?? [];
    const message: ThreadMessage = { why: 'step', at, to, news: [], open };
    // Those of the steps before are not notified by it: when they may be next does not change.
    const steps = thread.steps + 1;
    return { message, thread: { ...thread, steps, reached: Math.max(thread.reached, steps) } };
  }
  const message: ThreadMessage = { why: 'repeat', at, to: targetsOf(route, thread.steps), news: [], open };
  return { message, thread: { ...thread, sentAt: at } };
}

/** Whoever is notified by the first steps, each once. */
function targetsOf({ steps }: Route, count: number): Target[] {
  const all = steps.slice(0, count).flatMap(({ notify }) => notify);
  const seen = new Set<string>();
  return all.filter((target) => {
    const key = JSON.stringify(target);
    if (seen.has(key)) return false;
    seen.add(key);
    return true;
  });
}

/** The next instant at which the clocks of a zone show a time of day. */
function nextTimeOfDay(after: Instant, time: string, zone: string): Instant {
  const today = firstInstantAt(dateAt(after, zone), time, zone);
  return today >= after ? today : firstInstantAt(dateAfter(dateAt(after, zone), 1), time, zone);
}
