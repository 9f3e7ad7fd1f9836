import type { LogFields, Origin } from '$lib/core/logs';
import { valueText } from '$lib/core/logs';
import { pushedService } from '../intake/ledger/collections';
import type { Resource } from '../inventory/resources';

/** Names of what an origin may be, the most particular first: the first that is in the inventory is what wrote its lines. */
const names = [
  'cloud.resource_id',
  'container.id',
  'container.name',
  'k8s.container.name',
  'k8s.pod.name',
  'host.id',
  'host.name',
  'service.instance.id',
  'service.name',
  'k8s.deployment.name',
  'k8s.node.name',
  'node.name'
] as const;

/** Names of what lines come from, the one that says best who wrote them first. */
const streamNames = ['service.name', 'k8s.container.name', 'container.name', 'k8s.pod.name', 'host.name'] as const;
const longestStream = 200;

/** Where lines belong. */
export interface Belonging {
  readonly accountId: number;
  readonly service: string;
  readonly stream: string;
  readonly resourceId: number | null;
}

const textOf = (fields: LogFields, name: string): string =>
  Object.hasOwn(fields, name) ? valueText(fields[name] ?? null).trim() : '';

/**
 * What wrote the lines of an origin: the resource of the inventory that it names, by its own id or by its name. One name of several resources is nobody's, unless the account is named too.
 *
 * @param key of the program that sent them, or what else they come by: its account and service have what belongs to no resource
 */
export function belongingOf(
  { resource: fields }: Origin,
  resources: ResourcesByName,
  key: { readonly accountId: number; readonly name: string; readonly service?: string }
): Belonging {
  const account = textOf(fields, 'cloud.account.name') || textOf(fields, 'cloud.account.id');
  const found = names
    .map((name) => resources.find(textOf(fields, name), account))
    .find((resource) => resource !== null);
  const named = streamNames.map((name) => textOf(fields, name)).find((text) => text !== '');
  return {
    accountId: found?.accountId ?? key.accountId,
    service: found?.service ?? key.service ?? pushedService,
    stream: (named ?? found?.name ?? key.name).slice(0, longestStream),
    resourceId: found?.id ?? null
  };
}

/** Resources of the inventory, found by what programs call them. */
export class ResourcesByName {
  readonly #byName = new Map<string, Resource[]>();

  constructor(resources: readonly Resource[]) {
    for (const resource of resources)
      for (const name of new Set([resource.name.toLowerCase(), resource.providerId.toLowerCase()])) {
        const same = this.#byName.get(name);
        if (same === undefined) this.#byName.set(name, [resource]);
        else same.push(resource);
      }
  }

  /** @param account its name, where it is known; empty otherwise */
  find(name: string, account: string): Resource | null {
    if (name === '') return null;
    const all = this.#byName.get(name.toLowerCase()) ?? [];
    const ofAccount = account === '' ? all : all.filter((one) => one.account === account);
    const some = ofAccount.length > 0 ? ofAccount : all;
    return some.length === 1 ? (some[0] ?? null) : null;
  }
}
