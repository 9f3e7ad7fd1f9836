import { doubleFrom, fieldsOf, integerFrom, listFrom, textFrom } from './otlp-values';
import { mostLabels, type ReceivedIdentity } from './received';

/**
 * Attributes as labels: whole numbers to the last digit, lists and maps as JSON. An attribute without a value is left out.
 *
 * @returns null when they cannot be read or are too many
 * @example labelsFrom([{ key: 'lane', value: { intValue: '1' } }]) // { lane: '1' }
 */
export function labelsFrom(attributes: unknown): Record<string, string> | null {
  const list = listFrom(attributes);
  if (list === null || list.length > mostLabels) return null;
  const labels = new Map<string, string>();
  for (const pair of list.map(fieldsOf)) {
    const key = textFrom(pair?.get('key'));
    if (!pair || key === null || key === '') return null;
    const value = plainOf(pair.get('value'), 0);
    if (value === undefined) return null;
    if (value !== null) labels.set(key, typeof value === 'string' ? value : JSON.stringify(value));
  }
  return Object.fromEntries(labels);
}

type Plain = string | null | readonly Plain[] | { readonly [key: string]: Plain };

/** @returns null when there is no value, undefined when it cannot be read */
function plainOf(value: unknown, depth: number): Plain | undefined {
  if (value === undefined || value === null) return null;
  const fields = fieldsOf(value);
  if (fields === null || depth > 8) return undefined;
  for (const [kind, inner] of fields) {
    if (inner === undefined || inner === null) continue;
    if (kind === 'stringValue' || kind === 'bytesValue') return textFrom(inner) ?? undefined;
    if (kind === 'boolValue') return typeof inner === 'boolean' ? String(inner) : undefined;
    if (kind === 'intValue') return integerFrom(inner)?.toString();
    if (kind === 'doubleValue') return textOfDouble(doubleFrom(inner));
    if (kind === 'arrayValue') return listOf(fieldsOf(inner)?.get('values'), depth);
    if (kind === 'kvlistValue') return mapOf(fieldsOf(inner)?.get('values'), depth);
  }
  return null;
}

const textOfDouble = (value: number | null): string | undefined => (value === null ? undefined : String(value));

function listOf(values: unknown, depth: number): Plain | undefined {
  const list = listFrom(values)?.map((value) => plainOf(value, depth + 1));
  return list === undefined || list.includes(undefined) ? undefined : (list as Plain[]);
}

function mapOf(values: unknown, depth: number): Plain | undefined {
  const pairs = listFrom(values)?.map((pair): [string | null, Plain | undefined] => {
    const fields = fieldsOf(pair);
    return [textFrom(fields?.get('key')), plainOf(fields?.get('value'), depth + 1)];
  });
  if (pairs === undefined || pairs.some(([key, value]) => key === null || value === undefined)) return undefined;
  return Object.fromEntries((pairs as [string, Plain][]).sort(([one], [other]) => (one < other ? -1 : 1)));
}

/** The most characters of a resource's attribute that are stored. */
const longestTag = 1000;

/**
 * The resource of a request by its attributes: named by namespace, service and instance, or by its host.
 *
 * @example resourceOf([{ key: 'service.name', value: { stringValue: 'gate' } }]).id // 'gate'
 */
export function resourceOf(attributes: unknown): ReceivedIdentity['resource'] {
  const all = labelsFrom(attributes) ?? {};
  const tags = Object.fromEntries(Object.entries(all).map(([key, value]) => [key, value.slice(0, longestTag)]));
  const of = (key: string): string => (Object.hasOwn(all, key) ? (all[key] as string) : '');
  const service = of('service.name') || of('host.name') || 'unnamed';
  const instance = of('service.instance.id') || of('host.name');
  const parts = [of('service.namespace'), service, instance === service ? '' : instance].filter((part) => part !== '');
  return { id: parts.map((part) => part.replaceAll('/', '%2F')).join('/'), name: parts.join('/').slice(0, 400), tags };
}
