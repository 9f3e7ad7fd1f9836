import { timesText } from '../../alarm';
import { peopleDuration, type Duration } from '../../time';
import type { Grouping, Route, RouteCondition, Target } from './route';

/** What things of a route are called. */
export interface RouteNames {
  readonly rota: (id: number) => string;
  readonly person: (id: number) => string;
  readonly channel: (id: number) => string;
  readonly group: (id: number) => string;
  readonly service: (name: string) => string;
}

/** What ways to be reached are called. */
export const contactWords = { email: 'e-mail', 'text-message': 'text message', push: 'push notification' } as const;

/**
 * Which incidents a route takes, in words.
 *
 * @example conditionText({ severities: ['critical', 'major'], services: ['databases'], … }, names) // 'critical or major on Databases'
 */
export function conditionText(when: RouteCondition, { service, group }: Pick<RouteNames, 'service' | 'group'>): string {
  const { severities, services, accounts, groupIds, labels, times } = when;
  const rest = [
    ...(services.length > 0 ? [`on ${listed(services.map(service), ' or')}`] : []),
    ...(groupIds.length > 0 ? [`in ${listed(groupIds.map(group), ' or')}`] : []),
    ...(accounts.length > 0 ? [`of account ${listed(accounts, ' or')}`] : []),
    ...labels.map(({ label, is }) => `with label ${label} is ${listed(is, ' or')}`),
    ...(times === null ? [] : [`raised ${timesText(times)}`])
  ];
  if (severities.length === 0 && rest.length === 0) return 'every incident';
  return [severities.length === 0 ? 'any severity' : listed(severities, ' or'), ...rest].join(' ');
}

/**
 * Who is notified and when, in words.
 *
 * @example stepsText(route, names) // 'Data by text message at once; after 15 min Leads by e-mail; repeated every 20 min until acknowledged'
 */
export function stepsText({ steps, repeatEvery, digestAt, notifiesClear }: Route, names: RouteNames): string {
  const parts = steps.map(({ after, notify }) => {
    const who = listed(
      notify.map((target) => targetText(target, names)),
      notify.some(({ kind }) => kind !== 'channel') ? ', and' : ' and'
    );
    if (digestAt !== null) return `at ${digestAt}, one digest to ${who}`;
    return after === 0 ? `${who} at once` : `after ${lengthText(after)} ${who}`;
  });
  return [
    ...parts,
    ...(repeatEvery === null ? [] : [`repeated every ${lengthText(repeatEvery)} until acknowledged`]),
    ...(notifiesClear ? [] : ['nobody is notified when it clears'])
  ].join('; ');
}

/** What one message is about, by what its incidents have in common. */
export const groupingWords: Readonly<Record<Grouping, string>> = {
  incident: 'each incident',
  related: 'incidents that may have one cause',
  resource: 'each resource',
  alarm: 'each alarm',
  service: 'each service',
  region: 'each region',
  account: 'each account',
  route: 'all of them together'
};

/** What makes one message. @example groupText(route.group) // 'one message for each resource, after 1 min, at most every 5 min' */
export function groupText({ by, wait, atMostEvery }: Route['group']): string {
  const parts = [
    ...(wait === 0 ? [] : [`after ${lengthText(wait)}`]),
    ...(atMostEvery === 0 ? [] : [`at most every ${lengthText(atMostEvery)}`])
  ];
  return [`one message for ${groupingWords[by]}`, ...parts].join(', ');
}

/** Who a target is. @example targetText({ kind: 'rota', rotaId: 3, by: ['email'] }, names) // 'Data by e-mail' */
export function targetText(target: Target, { rota, person, channel }: RouteNames): string {
  if (target.kind === 'channel') return channel(target.channelId);
  const who = target.kind === 'rota' ? rota(target.rotaId) : person(target.personId);
  return `${who} by ${listed(
    target.by.map((kind) => contactWords[kind]),
    ' and'
  )}`;
}

/** A route as one sentence. @example routeSentence(route, names) // 'critical on Databases: Data by e-mail at once; one message for each incident' */
export const routeSentence = (route: Route, names: RouteNames): string =>
  `${conditionText(route.when, names)}: ${stepsText(route, names)}; ${groupText(route.group)}`;

const lengthText = (ms: number): string => peopleDuration(ms as Duration);

const listed = (names: readonly string[], last: ' and' | ', and' | ' or'): string =>
  names.length < 2 ? names.join('') : `${names.slice(0, -1).join(', ')}${last} ${names.at(-1)}`;
