/** A service: what resources of some types have in common for the people who operate them. */
export interface Service {
  /** Its key, as in addresses. */
  readonly key: string;
  readonly title: string;
  /** One and several of its resources, in a sentence. */
  readonly one: string;
  readonly several: string;
  /** Types of resources that belong to it. */
  readonly types: readonly string[];
}

/** The services Bussola knows, in the order of the index. */
export const services: readonly Service[] = [
  { key: 'machines', title: 'Machines', one: 'machine', several: 'machines', types: ['machine'] },
  {
    key: 'machine-groups',
    title: 'Machine groups',
    one: 'machine group',
    several: 'machine groups',
    types: ['machine-group']
  },
  { key: 'databases', title: 'Databases', one: 'database', several: 'databases', types: ['database'] },
  { key: 'functions', title: 'Functions', one: 'function', several: 'functions', types: ['function'] },
  { key: 'queues', title: 'Queues', one: 'queue', several: 'queues', types: ['queue'] },
  {
    key: 'clusters',
    title: 'Clusters',
    one: 'cluster part',
    several: 'clusters, nodes and workloads',
    types: ['cluster', 'node', 'workload']
  },
  { key: 'balancers', title: 'Balancers', one: 'balancer', several: 'balancers', types: ['balancer'] },
  { key: 'objects', title: 'Objects', one: 'object store', several: 'object stores', types: ['object-store'] },
  { key: 'caches', title: 'Caches', one: 'cache', several: 'caches', types: ['cache'] },
  { key: 'pipelines', title: 'Pipelines', one: 'pipeline', several: 'pipelines', types: ['pipeline'] },
  { key: 'replication', title: 'Replication', one: 'replication', several: 'replications', types: ['replication'] },
  { key: 'gateways', title: 'Gateways', one: 'gateway', several: 'gateways', types: ['gateway'] },
  {
    key: 'reachability',
    title: 'Reachability',
    one: 'reachability check',
    several: 'reachability checks',
    types: ['check']
  },
  { key: 'objectives', title: 'Promises', one: 'promise', several: 'promises', types: ['promise'] },
  { key: 'budgets', title: 'Budgets', one: 'budget', several: 'budgets', types: ['budget'] },
  { key: 'accounts', title: 'Accounts', one: 'account', several: 'accounts', types: ['account'] },
  { key: 'targets', title: 'Pages', one: 'page', several: 'pages', types: ['target'] },
  {
    key: 'bussola',
    title: 'Bussola itself',
    one: 'process of Bussola',
    several: 'processes of Bussola',
    types: ['bussola']
  },
  { key: 'pushed', title: 'Pushed', one: 'sender', several: 'senders', types: ['pushed'] },
  { key: 'derived', title: 'Derived', one: 'derived metric', several: 'derived metrics', types: ['derived'] }
];

const other = (key: string): Service => ({
  key,
  title: key.charAt(0).toUpperCase() + key.slice(1),
  one: 'resource',
  several: 'resources',
  types: []
});

/** The service of a key; one not known here is shown by its key. @example serviceByKey('queues').title // 'Queues' */
export const serviceByKey = (key: string): Service => services.find((service) => service.key === key) ?? other(key);

/** Whether a service is what Bussola measures of itself: its processes, what comes of its accounts, and derived metrics. @example isOwnService('bussola') // true */
export const isOwnService = (key: string): boolean => ['bussola', 'accounts', 'derived'].includes(key);

/** The key of the service that a type of resource belongs to. @example serviceOfType('node') // 'clusters' */
export const serviceOfType = (type: string): string =>
  services.find(({ types }) => types.includes(type))?.key ?? 'other';

/** Where a service stands in the index. */
export const serviceOrder = (key: string): number => {
  const place = services.findIndex((service) => service.key === key);
  return place === -1 ? services.length : place;
};

/** What resources of types are called that are named otherwise. */
const typeWords: ReadonlyMap<string, string> = new Map([
  ['pushed', 'sender'],
  ['derived', 'derived metric'],
  ['bussola', 'process of Bussola'],
  ['target', 'page']
]);

/** One resource of a type, within a sentence. @example oneOfType('object-store') // 'object store' */
export const oneOfType = (type: string | undefined): string =>
  type === undefined ? 'resource' : (typeWords.get(type) ?? type.replaceAll('-', ' '));

/** Several resources of a type. @example severalOfType('object-store') // 'object stores' */
export const severalOfType = (type: string | undefined): string => {
  const one = oneOfType(type);
  return /[^aeiou]y$/.test(one) ? `${one.slice(0, -1)}ies` : `${one}s`;
};

/** A word with the article that it takes. @example withArticle('object store') // 'an object store' */
export const withArticle = (word: string): string => `${/^[aeiou]/i.test(word) ? 'an' : 'a'} ${word}`;
