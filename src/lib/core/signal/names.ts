import type { Labels } from './conditions';
import { othersLabel } from './evaluate/limit';

/** Labels that say where a series is from; told only where they tell series apart. */
const places = ['account', 'region', 'service', 'type', 'provider'];

/**
 * A name for each series of a row: its resource, with the labels that tell it from the others of the same resource and do not just repeat its name; else its labels. A series of everything has
 * the row's name.
 *
 * @example namesOfColumns('a', [{ resource: 'gate-api-1', account: 'x', class: '5xx' }, { resource: 'gate-api-1', account: 'x', class: '2xx' }])
 * // ['gate-api-1 5xx', 'gate-api-1 2xx']
 */
export function namesOfColumns(row: string, all: readonly Labels[]): string[] {
  const differing = new Set<string>();
  const first = all[0] ?? {};
  for (const labels of all)
    for (const name of new Set([...Object.keys(labels), ...Object.keys(first)]))
      if (labels[name] !== first[name]) differing.add(name);
  const own = all.map((labels) => nameOf(row, labels, (name) => differing.has(name) && !places.includes(name)));
  const twice = new Set(own.filter((name, index) => own.indexOf(name) !== index));
  return all.map((labels, index) => {
    const name = own[index] as string;
    if (!twice.has(name)) return name;
    const place = places.filter((label) => differing.has(label)).map((label) => labels[label] ?? '');
    return [name, ...place].filter((part) => part !== '').join(' ');
  });
}

/**
 * What one series is on, in words that stand by themselves: its resource with its own labels, or all its labels.
 *
 * @param otherwise for a series without labels, such as a sum over everything
 * @example subjectOf({ resource: 'booking-web', account: 'corallo-prod', class: '5xx' }, 'Errors') // 'booking-web 5xx'
 */
export function subjectOf({ resource = '', ...labels }: Labels, otherwise: string): string {
  const told = (names: readonly string[]) =>
    names.map((name) => labels[name] ?? '').filter((value) => value !== '' && value !== resource);
  const own = told(
    Object.keys(labels)
      .filter((name) => !places.includes(name))
      .sort()
  );
  const place = told(places);
  const parts = resource === '' ? [...own, ...place] : [resource, ...own];
  return parts.join(' ') || otherwise;
}

function nameOf(row: string, labels: Labels, tells: (label: string) => boolean): string {
  if (labels[othersLabel]) return labels[othersLabel];
  const { resource = '', ...others } = labels;
  const rest = Object.entries(others).filter(([, value]) => value !== resource || resource === '');
  const told = rest.filter(([name]) => tells(name)).map(([, value]) => value || 'none');
  if (resource !== '') return [resource, ...told].join(' ');
  const values = told.length > 0 ? told : rest.map(([, value]) => value).filter((value) => value !== '');
  return values.join(' ') || row;
}
