import equal from 'fast-deep-equal';
import type { z } from 'zod';
import {
  agreementKinds,
  agreementText,
  type AgreementFile,
  type AgreementKind,
  type FileAgreement
} from '$lib/core/agreements';
import { budgetSchema } from '$lib/core/cost';
import type { FileFormat } from '$lib/core/forms/file';
import { problemsOf } from '$lib/core/forms/problems';
import { objectiveSchema } from '$lib/core/objective';
import { Refusal } from '$lib/core/problem/problem';
import { responseSchema } from '$lib/core/response';
import { summaryPlanSchema } from '$lib/core/summary';
import { allAlarms } from '../alarms/alarms';
import { budgets } from '../cost/budgets';
import type { Context } from '../db/context';
import { inOneTransaction } from '../db/one-transaction';
import type { Queryable } from '../db/pool';
import { allChannels } from '../notify/channels';
import { objectives } from '../objective/objectives';
import type { ParserPool } from '../parsing/parser-pool';
import { allGroups } from '../query/groups/groups';
import { addResponse, saveResponse, type Acting } from '../responses/manage-responses';
import { allResponses } from '../responses/responses';
import { allRoutes } from '../routing/routes';
import { addPlan, savePlan } from '../summary/manage-plans';
import { allPlans } from '../summary/plans';

type FileContext = Context & { readonly parsers: ParserPool };

/** Something that is stored, with what a file holds of it. */
interface Known {
  readonly id: number;
  readonly version: number;
  readonly value: { readonly name: string };
}

/** What names stand for here. */
type Names = Readonly<Record<'route' | 'alarm' | 'group' | 'channel', readonly { id: number; name: string }[]>>;

/** What applying a file would do to one thing. */
export interface PlannedAgreement {
  readonly kind: AgreementKind;
  readonly name: string;
  /** What would change; null when a new one would be made. */
  readonly id: number | null;
  /** Nothing when it is the same already. */
  readonly differences: readonly string[];
  /** Why it cannot be applied, in words. */
  readonly problems: readonly string[];
}

/** A kind of agreement: how it is read, which of its fields are ids of what, and how it is written. */
interface Kind {
  readonly schema: z.ZodType<{ readonly name: string }>;
  readonly all: (db: Queryable) => Promise<Known[]>;
  /** Where ids stand, by the path to each, and the field that a file has in its place. */
  readonly ids: readonly { readonly at: readonly string[]; readonly as: string; readonly of: keyof Names }[];
  readonly add: (inner: Context, value: never, acting: Acting) => Promise<unknown>;
  readonly save: (inner: Context, known: Known, value: never, acting: Acting) => Promise<unknown>;
}

const toRoute = [{ at: ['route'], as: 'route', of: 'route' }] as const;
const kinds: Readonly<Record<AgreementKind, Kind>> = {
  budgets: {
    ...{ schema: budgetSchema, all: (db) => budgets.all(db), ids: toRoute },
    add: (inner, value, { by }) => budgets.add(inner, value, by),
    save: (inner, { id, version }, value, { by }) => budgets.save(inner, id, version, value, by)
  },
  promises: {
    ...{ schema: objectiveSchema, all: (db) => objectives.all(db), ids: toRoute },
    add: (inner, value, { by }) => objectives.add(inner, value, by),
    save: (inner, { id, version }, value, { by }) => objectives.save(inner, id, version, value, by)
  },
  responses: {
    schema: responseSchema,
    all: async (db) => (await allResponses(db)).map(({ response, ...one }) => ({ ...one, value: response })),
    ids: [
      { at: ['alarmId'], as: 'alarm', of: 'alarm' },
      { at: ['limits', 'group', 'groupId'], as: 'name', of: 'group' },
      { at: ['action', 'channelId'], as: 'channel', of: 'channel' }
    ],
    add: (inner, value, acting) => addResponse(inner, value, acting),
    save: (inner, { id, version }, value, acting) => saveResponse(inner, id, version, value, acting)
  },
  summaries: {
    schema: summaryPlanSchema,
    all: async (db) => (await allPlans(db)).map(({ plan, ...one }) => ({ ...one, value: plan })),
    ids: [{ at: ['channels'], as: 'channels', of: 'channel' }],
    add: (inner, value, { by }) => addPlan(inner, value, by),
    save: (inner, { id, version }, value, { by }) => savePlan(inner, id, version, value, by)
  }
};

async function namesOf(db: Queryable): Promise<Names> {
  return {
    route: (await allRoutes(db)).map(({ id, route: { name } }) => ({ id, name })),
    alarm: (await allAlarms(db)).map(({ id, definition: { name } }) => ({ id, name })),
    group: (await allGroups(db)).map(({ id, name }) => ({ id, name })),
    channel: (await allChannels(db)).map(({ id, name }) => ({ id, name }))
  };
}

type Plain = Record<string, unknown>;
const isPlain = (value: unknown): value is Plain =>
  typeof value === 'object' && value !== null && !Array.isArray(value);

/** Changes the field at the end of a path, where there is one: its name and, one by one, what it holds. */
function translated(
  value: unknown,
  [key = '', ...rest]: readonly string[],
  becomes: string,
  one: (value: unknown) => unknown
): unknown {
  if (!isPlain(value) || !(key in value)) return value;
  if (rest.length > 0) return { ...value, [key]: translated(value[key], rest, becomes, one) };
  const { [key]: held, ...others } = value;
  return { ...others, [becomes]: Array.isArray(held) ? held.map(one) : one(held) };
}

/** A stored thing as a file holds it. */
function asFile({ ids }: Kind, { value }: Known, names: Names): FileAgreement {
  return ids.reduce<unknown>(
    (so, { at, as, of }) =>
      translated(so, at, as, (id) =>
        id === null ? null : (names[of].find((one) => one.id === id)?.name ?? `${of} ${Number(id)}`)
      ),
    JSON.parse(JSON.stringify(value))
  ) as FileAgreement;
}

/** A thing of a file as it is stored; null with why where it cannot be. */
function fromFile({ schema, ids }: Kind, thing: FileAgreement, names: Names): { value: unknown; problems: string[] } {
  const problems: string[] = [];
  const idOf = (of: keyof Names) => (name: unknown) => {
    if (name === null) return null;
    const found = names[of].filter((one) => one.name === name);
    if (found.length === 1) return found[0]?.id;
    problems.push(
      `There ${found.length === 0 ? 'is no' : 'are several'} ${of} called “${typeof name === 'string' ? name : JSON.stringify(name)}” here.`
    );
    return name;
  };
  const value = ids.reduce<unknown>(
    (so, { at, as, of }) => translated(so, [...at.slice(0, -1), as], at.at(-1) ?? '', idOf(of)),
    thing
  );
  if (problems.length > 0) return { value: null, problems };
  const read = schema.safeParse(value);
  if (read.success) return { value: read.data, problems };
  return { value: null, problems: problemsOf(read.error).map(({ path, message }) => `${path}: ${message}`) };
}

/** All of them as the text of a file. */
export async function agreementsAsFile(db: Queryable, format: FileFormat): Promise<string> {
  const names = await namesOf(db);
  const of = async (kind: AgreementKind) =>
    (await kinds[kind].all(db)).map((known) => asFile(kinds[kind], known, names));
  const file: AgreementFile = {
    ...{ kind: 'agreements', version: 1 },
    ...{ budgets: await of('budgets'), promises: await of('promises') },
    ...{ responses: await of('responses'), summaries: await of('summaries') }
  };
  return agreementText(file, format);
}

interface Step {
  readonly planned: PlannedAgreement;
  readonly known: Known | null;
  readonly value: unknown;
}

async function stepsOf(db: Queryable, file: AgreementFile): Promise<Step[]> {
  const names = await namesOf(db);
  const steps: Step[] = [];
  for (const kind of agreementKinds) {
    const all = await kinds[kind].all(db);
    for (const thing of file[kind]) {
      const found = all.filter(({ value: { name } }) => name === thing.name);
      const [known = null] = found;
      const { value, problems } = fromFile(kinds[kind], thing, names);
      const differences =
        known === null || value === null ? [] : differencesOf(known.value, value as { readonly name: string });
      steps.push({
        ...{ known, value },
        planned: {
          ...{ kind, name: thing.name, id: known?.id ?? null, differences },
          problems:
            found.length > 1 ? [...problems, 'Several are called so here: give them names of their own.'] : problems
        }
      });
    }
  }
  return steps;
}

/** What is different between two definitions, field by field, in words. */
function differencesOf(was: object, becomes: object): string[] {
  const [from, to] = [was, becomes].map((one) => JSON.parse(JSON.stringify(one)) as Plain) as [Plain, Plain];
  const shown = (value: unknown) => {
    const text = value === undefined ? 'none' : typeof value === 'string' ? value : JSON.stringify(value);
    return text.length > 200 ? `${text.slice(0, 200)}…` : text;
  };
  return [...new Set([...Object.keys(from), ...Object.keys(to)])]
    .filter((key) => !equal(from[key], to[key]))
    .map((key) => `${key}: ${shown(from[key])} → ${shown(to[key])}`);
}

async function readFile({ parsers }: FileContext, text: string): Promise<AgreementFile> {
  const read = await parsers.agreementFile(text);
  if (read.kind === 'read') return read.file;
  throw new Refusal(
    'unreadable',
    'The file cannot be read as budgets, promises, responses and summaries.',
    'Correct it at the places that are named.',
    { problems: read.problems }
  );
}

/** Says what applying a file would do; nothing is changed. What the file does not name stays. @throws Refusal `unreadable`, with the lines at fault */
export async function planAgreementFile(context: FileContext, text: string): Promise<PlannedAgreement[]> {
  return (await stepsOf(context.db, await readFile(context, text))).map(({ planned }) => planned);
}

/**
 * Does what {@link planAgreementFile} says, all of it or nothing.
 *
 * @throws Refusal as it does, `unreadable` where something of it cannot be applied, `not-allowed` for responses of whoever may not act
 */
export async function applyAgreementFile(
  context: FileContext,
  text: string,
  acting: Acting
): Promise<{ readonly things: PlannedAgreement[]; readonly applied: number }> {
  const file = await readFile(context, text);
  return inOneTransaction(context, async (inner) => {
    const steps = await stepsOf(inner.db, file);
    const amiss = steps.find(({ planned: { problems } }) => problems.length > 0)?.planned;
    if (amiss)
      throw new Refusal(
        'unreadable',
        `“${amiss.name}” of the ${amiss.kind} cannot be applied: ${amiss.problems[0]} Nothing was changed.`,
        'Correct the file, or make here what it names.'
      );
    let applied = 0;
    for (const { planned, known, value } of steps) {
      if (known !== null && planned.differences.length === 0) continue;
      const kind = kinds[planned.kind];
      await (known === null
        ? kind.add(inner, value as never, acting)
        : kind.save(inner, known, value as never, acting));
      applied++;
    }
    return { things: steps.map(({ planned }) => planned), applied };
  });
}
