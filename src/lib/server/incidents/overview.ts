import { graver, type Severity } from '$lib/core/alarm';
import { serviceByKey, serviceOrder } from '$lib/core/services';
import { after, before, day, minute, range, times, type Instant } from '$lib/core/time';
import { allAlarms } from '../alarms/alarms';
import { incidentsInOrder } from './incidents';
import { logbookIncidents, type LogbookIncident } from './span';
import type { OpenNowReader } from './open-now';
import { allGroups } from '../query/groups/groups';
import { allAccounts } from '../inventory/accounts';
import { pushedService } from '../intake/ledger/collections';
import { allResources } from '../inventory/resources';
import { marksIn } from '../marks/marks';
import { allChannels } from '../notify/channels';
import { whoHasTheWatch } from '../rotas/on-call';
import { deliveryTrouble } from '../notify/outbox-lists';
import type { Context } from '../db/context';
import type { Disk } from '../base/disk';
import type { StoreClient } from '../store/open-store';

/** Open incidents that each page lists, the gravest, and marks in its logbook besides the newest; the page Incidents has all. */
const mostOpen = 50;

/** What every page about data shows around its sheet: helm, logbook strip and index. */
export async function overview({
  db,
  clock,
  store,
  changes,
  disk,
  openNow
}: Context & { readonly store: StoreClient; readonly disk: Disk; readonly openNow: OpenNowReader }) {
  const version = changes.version; // before reading, so that what changes meanwhile is seen to be missed
  const now = clock.now();
  const logbook = range(before(now, times(14, day)), now);
  const opened = openNow.read();
  const [
    accounts,
    recent,
    open,
    { counts: counted },
    resources,
    alarms,
    channels,
    progress,
    marks,
    trouble,
    groups,
    onCall
  ] = await Promise.all([
    allAccounts(db),
    logbookIncidents(db, logbook),
    opened.then(({ incidents }) => incidentsInOrder(db, incidents.slice(0, mostOpen))),
    opened,
    allResources(db),
    allAlarms(db),
    allChannels(db),
    store.samples.progress(),
    marksIn(db, range(logbook.from, after(now, minute))), // those of this very moment, too
    deliveryTrouble(db),
    allGroups(db),
    whoHasTheWatch(db, now)
  ]);
  const listed = new Set(recent.map(({ id }) => id));
  const incidents: LogbookIncident[] = [...recent, ...open.filter(({ id }) => !listed.has(id))];
  const newest = Math.max(0, ...accounts.map(({ newestAt }) => newestAt ?? 0));
  const services = [...new Set(resources.map(({ service }) => service))]
    .sort((a, b) => serviceOrder(a) - serviceOrder(b))
    .map((service) => ({
      service,
      resources: resources.filter((resource) => resource.service === service).length,
      worst: worstOf(counted.filter((one) => one.service === service))
    }));
  return {
    now,
    version,
    newest: newest === 0 ? null : (newest as Instant),
    storeReady: progress.ready,
    logbook: {
      ...logbook,
      marks,
      incidents: incidents.map(
        ({ id, alarmId, alarm, subject, resource, account, service, severity, openedAt, closedAt }) => ({
          id,
          alarmId,
          alarm,
          subject,
          resource,
          account,
          service,
          severity,
          openedAt,
          closedAt
        })
      )
    },
    services,
    /** The gravest of those that are open; {@link counts} has how many there are in all. */
    open,
    trouble,
    /** Who has the watch by each rota. */
    onCall,
    /** Set while no samples are taken for want of room. */
    lowDisk: lowDiskOf(disk),
    findable: [
      ...resources.map(({ id, name, account, service }) => ({
        title: name,
        kind: `${serviceByKey(service).one}, ${account}`,
        href: `/resources/${id}`
      })),
      ...alarms.map(({ id, definition: { name } }) => ({ title: name, kind: 'alarm', href: `/alarms/${id}` })),
      ...groups.map(({ id, name }) => ({ title: name, kind: 'group', href: `/groups/${id}` })),
      ...accounts
        .filter(({ provider }) => provider !== 'derived')
        .map(({ id, name, provider }) =>
          provider === pushedService
            ? { title: name, kind: 'key', href: '/receive' }
            : { title: name, kind: 'account', href: `/accounts/${id}` }
        )
    ],
    counts: {
      raised: counted.reduce((sum, { count }) => sum + count, 0),
      alarms: alarms.length,
      unconfirmed: channels.filter(({ confirmedAt }) => confirmedAt === null).length,
      failing: accounts.reduce((sum, { failing }) => sum + failing, 0),
      troubled: accounts.filter(({ lastError }) => lastError !== null).length
    }
  };
}

function lowDiskOf(disk: Disk): { free: number; least: number } | null {
  const state = disk.state();
  return state?.isLow ? { free: state.free, least: state.least } : null;
}

/** The gravest severity among some that are open. */
const worstOf = (counts: readonly { readonly severity: Severity }[]): Severity | null =>
  counts.reduce<Severity | null>((worst, { severity }) => graver(worst, severity), null);
