/** One line of what a request or an answer is made of. */
export interface OutlineRow {
  /** How many things it lies within. */
  readonly depth: number;
  /** The name of a part; empty for one of a list, or one of several forms. */
  readonly name: string;
  /** What it is, in words: `text`, `list of integers`, `"avg" or "max"`. */
  readonly kind: string;
  readonly isNeeded: boolean;
  readonly says: string;
}

/** As much of JSON Schema as descriptions of operations have. */
interface Schema {
  readonly type?: string | readonly string[];
  readonly enum?: readonly unknown[];
  readonly const?: unknown;
  readonly format?: string;
  readonly minimum?: number;
  readonly maximum?: number;
  readonly items?: Schema;
  readonly prefixItems?: readonly Schema[];
  readonly properties?: Readonly<Record<string, Schema>>;
  readonly required?: readonly string[];
  readonly additionalProperties?: boolean | Schema;
  readonly anyOf?: readonly Schema[];
  readonly oneOf?: readonly Schema[];
  readonly allOf?: readonly Schema[];
  readonly description?: string;
  readonly default?: unknown;
}

/** Lines that an outline has at most, and how deep it goes. */
const [mostRows, mostDepth] = [160, 4];

/**
 * What a JSON Schema describes, in lines. Where there is more than people read, it ends early and says so.
 *
 * @example outlineOf({ type: 'object', properties: { name: { type: 'string' } }, required: ['name'] })
 * // [{ depth: 0, name: 'name', kind: 'text', isNeeded: true, says: '' }]
 */
export function outlineOf(schema: object): OutlineRow[] {
  const rows: OutlineRow[] = [];
  addWithin(rows, schema, 0);
  if (rows.length <= mostRows) return rows;
  const more = { depth: 0, name: '…', kind: '', isNeeded: false };
  return [...rows.slice(0, mostRows), { ...more, says: `${rows.length - mostRows} more lines: see openapi.json.` }];
}

/** Adds what lies within something: parts of an object, forms, or what a list has. */
function addWithin(rows: OutlineRow[], schema: Schema, depth: number): void {
  const { forms, isNullable } = formsOf(schema);
  const [only] = forms;
  if (only !== undefined && forms.length === 1 && (isNullable || only !== schema)) return addWithin(rows, only, depth);
  if (forms.length > 1) {
    for (const [index, form] of forms.filter(hasParts).entries())
      add(rows, '', form, { depth, isNeeded: false, kind: index === 0 ? 'either' : 'or' });
    return;
  }
  const of = schema.items ?? schema.prefixItems?.[0];
  if (of !== undefined) return addWithin(rows, of, depth);
  for (const part of schema.allOf ?? []) addWithin(rows, part, depth);
  for (const [name, part] of Object.entries(schema.properties ?? {}))
    add(rows, name, part, { depth, isNeeded: schema.required?.includes(name) === true && part.default === undefined });
  if (typeof schema.additionalProperties === 'object' && Object.keys(schema.additionalProperties).length > 0)
    add(rows, 'any name', schema.additionalProperties, { depth, isNeeded: false });
}

function add(
  rows: OutlineRow[],
  name: string,
  schema: Schema,
  { depth, isNeeded, kind }: { readonly depth: number; readonly isNeeded: boolean; readonly kind?: string }
): void {
  const isDeeper = depth + 1 >= mostDepth && hasParts(schema);
  const usual = schema.default === undefined ? '' : `${JSON.stringify(schema.default)} where it is left out.`;
  const says = [schema.description ?? '', usual, isDeeper ? 'Has more within.' : ''].filter(Boolean).join(' ');
  rows.push({ depth, name, kind: kind ?? kindOf(schema), isNeeded, says });
  if (!isDeeper) addWithin(rows, schema, depth + 1);
}

/** Forms that something may have, and whether it may be nothing. */
function formsOf(schema: Schema): { forms: readonly Schema[]; isNullable: boolean } {
  const all = schema.anyOf ?? schema.oneOf;
  if (all === undefined) return { forms: [schema], isNullable: false };
  const forms = all.flatMap((one) => (one.type === 'null' ? [] : formsOf(one).forms));
  return { forms, isNullable: all.some(({ type }) => type === 'null') };
}

/** Whether there is something within it to be shown. */
const hasParts = (schema: Schema): boolean => {
  const { forms } = formsOf(schema);
  if (forms.length > 1 || forms[0] !== schema) return forms.some(hasParts);
  const of = schema.items ?? schema.prefixItems?.[0];
  return (
    Object.keys(schema.properties ?? {}).length > 0 ||
    (of !== undefined && hasParts(of)) ||
    (schema.allOf?.some(hasParts) ?? false)
  );
};

const plainWords: Readonly<Record<string, string>> = {
  ...{ string: 'text', number: 'number', integer: 'integer', boolean: 'true or false', null: 'null', object: 'object' }
};

function kindOf(schema: Schema): string {
  const { forms, isNullable } = formsOf(schema);
  const orNull = isNullable ? ' or null' : '';
  if (forms.length !== 1 || forms[0] !== schema)
    return [...new Set(forms.map(kindOf))].slice(0, 6).join(' or ') + orNull;
  if (schema.const !== undefined) return JSON.stringify(schema.const);
  if (schema.enum !== undefined) {
    const shown = schema.enum.slice(0, 8).map((one) => JSON.stringify(one));
    return shown.join(' or ') + (schema.enum.length > 8 ? ` or ${schema.enum.length - 8} others` : '');
  }
  const of = schema.items ?? schema.prefixItems?.[0];
  if (of !== undefined || schema.type === 'array') return of === undefined ? 'list' : `list of ${kindOf(of)}`;
  const types = Array.isArray(schema.type) ? (schema.type as readonly string[]) : [schema.type as string | undefined];
  const words = types.map((type) => (type === undefined ? 'anything' : (plainWords[type] ?? type))).join(' or ');
  return words + boundsOf(schema);
}

function boundsOf({ type, format, minimum, maximum }: Schema): string {
  if (type === 'string') return format === undefined || format === 'includes' ? '' : `, ${format}`;
  const isHuge = (bound: number | undefined) => bound === undefined || Math.abs(bound) >= 2 ** 31 - 1;
  if (isHuge(maximum)) return minimum === undefined || isHuge(minimum) ? '' : ` from ${minimum} on`;
  return isHuge(minimum) ? ` up to ${maximum}` : ` from ${minimum} to ${maximum}`;
}
