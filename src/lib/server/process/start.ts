import { randomUUID } from 'node:crypto';
import { rmSync } from 'node:fs';
import { hostname } from 'node:os';
import * as Comlink from 'comlink';
import type { Logger } from 'pino';
import type { Clock } from '$lib/core/time';
import { Catalogue } from '../query/catalogue/catalogue';
import { Changes } from '../base/changes';
import { fileClock, systemClock } from '../base/clock';
import type { Config } from '../base/config';
import { loggerOf } from '../base/logger';
import { Disk, fullDisk, isFullDisk } from '../base/disk';
import { Health } from '../base/health';
import { version } from '../base/version';
import { startWatchdog, usualLimits, type Watchdog } from './watchdog';
import { startEmbedded, type EmbeddedDatabase } from '../db/embedded';
import { connectionFault } from '../db/connection-faults';
import { openFolder } from '../db/folder';
import { soleDuties, type Duties } from '../duties/duties';
import { refuseOtherMachines } from '../duties/processes';
import { ownLimits, sharedLimits } from '../duties/limits';
import { shareDuties } from '../duties/share-duties';
import { spreadNews } from '../duties/spread-news';
import { allDuties } from './all-duties';
import { knownVersion, migrate } from '../db/migrate';
import { startReadingBills } from '../cost/follow-bills';
import { IdleResources } from '../cost/idle-resources';
import { openCosts, type CostClient } from '../cost/open-costs';
import { ObjectiveCounts } from '../objective/objective-counts';
import { openLogs, type LogClient } from '../logs/open-logs';
import { startFollowing } from '../logs/feeds/follow-lines';
import { startJudgingEvents } from '../events/judge-events';
import { startSealing } from '../logs/keep-sealing';
import { startSyslog } from '../logs/syslog';
import { OpenNowReader } from '../incidents/open-now';
import { openPool, type Connection, type Database } from '../db/pool';
import { startReadingPages } from '../intake/targets/read-pages';
import { startEngine } from '../engine/engine';
import { Guards } from '../intake/ledger/intake';
import { outboundTo, policyOf, type AddressPolicy, type Outbound } from '../providers/port/outbound';
import { CheckTrials } from '../reachability/try-check';
import { startChecking } from '../reachability/run-checks';
import type { Provider } from '../providers/port/provider';
import { knownProviders } from '../connectors/known-connectors';
import { connectorPool, type ConnectorPool } from '../providers/connector/connector-pool';
import { providersWith, registered } from '../providers/registry';
import { SeriesBook } from '../inventory/series-book';
import { startDelivery, type Delivery } from '../notify/deliver';
import { confirmationLimits, type ConfirmationLimits } from '../notify/confirmation-limits';
import { closeSenders, sendersWith } from '../notify/senders/senders';
import type { MessageContent, SentKind } from '$lib/core/notify';
import { pushKeys } from '../notify/push-keys';
import { pictures, type Pictures } from '../notify/pictures/pictures';
import { incidentPicture } from '../respond/incident-picture';
import { drawnSummaries, type DrawnSummaries } from '../summary/drawn/drawn-summaries';
import { encloseSummary } from '../summary/enclose-summary';
import { startSendingChanges } from '../followers/send-changes';
import { startSummaries } from '../summary/send-plans';
import { Backups } from '../backup/backups';
import { startTelemetry } from '../observe/telemetry';
import { startHeartbeat, type Heartbeat } from '../respond/heartbeat';
import { startActing } from '../responses/start-acting';
import { startResponding } from '../respond/respond';
import { clientAddresses } from '../http/client-address';
import { signInService, type SignInService } from '../people/sign-in';
import { handOutFirstLink } from '../workspace/first-start';
import { Issuer } from '../workspace/issuer';
import { openSecrets } from '../doctor/open-secrets';
import type { SecretBox } from '../base/secrets';
import { Readers } from '../base/readers';
import { QueryQueue } from '../query/query-queue';
import { parserPool, type ParserPool } from '../parsing/parser-pool';
import { Intervals } from '../intake/receive/intervals';
import { KeyUses } from '../intake/receive/key-uses';
import { LatelyDescribed } from '../intake/receive/lately-described';
import { TakeTurns } from '../base/take-turns';
import { RequestRate } from '../people/request-rate';
import { unreadableStored } from '../doctor/unreadable';
import type { StoreClient } from '../store/open-store';
import type { EvaluatorClient } from '../query/query-thread';
import { startEngineThread, type JudgingClient } from '../engine/engine-thread';

/** Everything a route may call. */
export interface Bussola {
  readonly config: Config;
  readonly db: Database;
  readonly clock: Clock;
  readonly disk: Disk;
  readonly health: Health;
  readonly store: StoreClient;
  /** Lines, in a thread of their own. */
  readonly logs: LogClient;
  /** What accounts cost, in a thread of their own. */
  readonly costs: CostClient;
  readonly idle: IdleResources;
  /** What promises are about, counted. */
  readonly objectives: ObjectiveCounts;
  readonly evaluator: EvaluatorClient;
  /** Judges alarms, in the thread of the samples. */
  readonly judging: JudgingClient;
  readonly secrets: SecretBox;
  readonly providers: Readonly<Record<string, Provider>>;
  /** Providers that people described. */
  readonly connectors: { readonly pool: ConnectorPool; refresh(): Promise<void> };
  readonly guards: Guards;
  /** The policy on addresses that people tell Bussola to call. */
  readonly refusedWhy: AddressPolicy;
  readonly checkTrials: CheckTrials;
  readonly book: SeriesBook;
  readonly parsers: ParserPool;
  readonly uses: KeyUses;
  readonly intervals: Intervals;
  readonly described: LatelyDescribed;
  readonly turns: TakeTurns;
  /** In which what people ask waits for its turn. */
  readonly queryQueue: QueryQueue;
  /** Who waits for an answer. */
  readonly readers: Readers;
  readonly changes: Changes;
  /** What of the work of engines is this process's. */
  readonly duties: Duties;
  readonly openNow: OpenNowReader;
  readonly catalogue: Catalogue;
  readonly delivery: Delivery;
  readonly drawn: Pictures;
  /** Summaries as pictures and PDF. */
  readonly summaries: DrawnSummaries;
  readonly backups: Backups;
  readonly heartbeat: Heartbeat;
  readonly confirmations: ConfirmationLimits;
  readonly signIn: SignInService;
  /** Another service that signs people in; null for none. */
  readonly issuer: Issuer | null;
  readonly log: Logger;
  readonly origin: string;
  /** Calls addresses that people entered, where the policy permits it. */
  readonly call: Outbound;
  /** How many requests keys make. */
  readonly requestRate: RequestRate;
  /** Where a request comes from, by its socket and what proxies say. */
  readonly addressOf: (socket: string, forwarded: string | null) => string;
  /** Ends everything in order, so that the data folder can be opened again at once. */
  close(): Promise<void>;
}

/**
 * Starts Bussola: takes the data folder, opens the database, brings it up to date, starts the store, delivery and the engine.
 * When a step fails, what was opened before it is closed again.
 *
 * @param makers of the providers that accounts can be connected at
 * @param onLoss called when the database or the store ends by itself; there is nothing to do then but to end
 * @throws Refusal for what a person can fix
 * @example const bussola = await startBussola(configFrom(process.env), (error) => process.exit(1))
 */
export async function startBussola(
  config: Config,
  onLoss: (error: Error) => void,
  makers = registered
): Promise<Bussola> {
  const undo: (() => Promise<void> | void)[] = [];
  const close = async () => {
    for (let step = undo.pop(); step; step = undo.pop()) await step();
  };
  // Watches until all else is closed: a database that hangs keeps its closing from ending.
  let watchdog: Watchdog | null = null;
  undo.push(() => watchdog?.stop());
  try {
    const log = loggerOf(config);
    const clock = config.clockFile === null ? systemClock : fileClock(config.clockFile);
    const folder = openFolder(config.data, knownVersion());
    undo.push(() => folder.release());
    if (folder.socket !== folder.path) undo.push(() => rmSync(folder.socket, { recursive: true, force: true }));
    const connection = config.databaseUrl === null ? await embedded() : { connectionString: config.databaseUrl };
    const db = openPool(connection);
    undo.push(() => db.close());
    const health = new Health(config.role !== 'web');
    undo.push(() => health.close());
    const unhurried = openPool(connection, 1, null);
    const migrated = await migrate(unhurried).finally(() => unhurried.close());
    folder.markVersion();
    const database = config.databaseUrl === null ? 'embedded' : 'server';
    log.info({ version, node: process.version, database, data: folder.path, migrated: migrated.length }, 'starting');
    watchdog = startWatchdog(db, health, { ...usualLimits, closing: config.closingMs });
    const { store, evaluator, judging } = startEngineThread(connection);
    store.onLoss(onLoss);
    undo.push(() => store.close());
    store.ready.catch(onLoss);
    const logs = openLogs(connection);
    logs.onLoss(onLoss);
    undo.push(() => logs.close());
    logs.ready.catch(onLoss);
    const port = await logs.port();
    await evaluator.countLinesBy(Comlink.transfer(port, [port as unknown as Transferable]));
    const costs = openCosts(connection);
    undo.push(() => costs.close());
    const changes = new Changes();
    const duties = config.databaseUrl === null ? soleDuties(randomUUID()) : await sharedDuties();
    const limits = config.databaseUrl === null ? ownLimits : sharedLimits(db);
    const { origin } = config;
    const call = outboundTo(config.reach);
    const secrets = await openSecrets(db, folder.path, config.key);
    const senders = sendersWith({ ...config, call, pushKeys: () => pushKeys(db, secrets) });
    undo.push(() => closeSenders(senders));
    const drawn = pictures();
    undo.push(() => drawn.close());
    const summaries = drawnSummaries();
    undo.push(() => summaries.close());
    const enclose = async (content: MessageContent, kind: SentKind, zone: string) => {
      const summary = await encloseSummary({ db, clock, secrets, origin, summaries }, content, kind);
      if (summary !== null) return summary;
      const picture =
        kind === 'email' ? await incidentPicture({ db, clock, evaluator, pictures: drawn }, content, zone) : null;
      return { pictures: picture === null ? [] : [picture], files: [] };
    };
    const delivery = await startDelivery({ db, clock, senders, secrets, changes, duties, log, origin, enclose });
    undo.push(() => delivery.stop());
    const parsers = parserPool();
    undo.push(() => parsers.close());
    const uses = new KeyUses(db, log);
    undo.push(() =>
      uses.write().catch((error: unknown) => log.error({ err: error }, 'what keys sent last could not be noted'))
    );
    const readers = new Readers();
    const pool = connectorPool();
    undo.push(() => pool.close());
    const known = await knownProviders({ db, clock, changes, pool, log }, providersWith(clock, makers));
    undo.push(() => known.stop());
    const parts = {
      config,
      db,
      clock,
      disk: new Disk(config.databaseUrl === null ? folder.path : null, config.leastFree),
      health,
      store,
      logs,
      costs,
      idle: new IdleResources({ db, store }),
      objectives: new ObjectiveCounts({ db, clock, store, evaluator }),
      evaluator,
      judging,
      secrets,
      providers: known.providers,
      connectors: { pool, refresh: () => known.refresh() },
      guards: new Guards(call, { restMs: config.restMs }, changes),
      refusedWhy: policyOf(config.reach),
      checkTrials: new CheckTrials(),
      book: new SeriesBook(db),
      parsers,
      uses,
      intervals: new Intervals(db),
      described: new LatelyDescribed(),
      turns: new TakeTurns(),
      queryQueue: new QueryQueue({}, readers),
      readers,
      changes,
      duties,
      openNow: new OpenNowReader(db, changes),
      catalogue: new Catalogue({ evaluator, clock, changes }),
      delivery,
      drawn,
      summaries,
      confirmations: confirmationLimits(limits),
      log,
      origin,
      call,
      requestRate: new RequestRate(),
      addressOf: clientAddresses(config.proxies)
    };
    for (const { message } of await unreadableStored(db))
      log.error({ stored: message }, 'something stored cannot be read');
    if (config.role !== 'engine') {
      const syslog = await startSyslog(parts, config.syslog);
      undo.push(() => syslog.stop());
    }
    const works = [
      () => startSealing(parts),
      () => startFollowing(parts, config.linesMs),
      () => startReadingBills(parts, config.billsMs),
      () => startReadingPages(parts),
      () => startEngine(parts),
      () => startChecking(parts),
      () => startJudgingEvents(parts),
      () => startResponding(parts),
      () => startActing(parts),
      () => startSummaries(parts),
      () => startSendingChanges(parts)
    ];
    for (const start of config.role === 'web' ? [] : works) {
      const work = start();
      undo.push(() => work.stop());
    }
    const backups = new Backups({ config, connection, log, db, clock, changes });
    await backups.start();
    undo.push(() => backups.close());
    if (config.role !== 'engine') await handOutFirstLink({ db, clock, origin }, folder.path, config.firstLink);
    const heartbeat = startHeartbeat({ url: config.heartbeat, origin, call, clock, log });
    undo.push(() => heartbeat.stop());
    if (config.telemetry !== null) {
      const telemetry = startTelemetry({ ...parts, to: config.telemetry, instance: config.instance });
      undo.push(() => telemetry.stop());
    }
    const closeInTime = async () => {
      log.info('stopping');
      watchdog?.closing();
      await close();
      log.info('stopped');
    };
    const issuer = config.issuer === null ? null : new Issuer(config.issuer, origin);
    return { ...parts, backups, heartbeat, issuer, signIn: signInService(limits), close: closeInTime };

    /** Shares the work with the other processes on the database. */
    async function sharedDuties(): Promise<Duties> {
      // Connections of their own: whoever says that it lives waits for nobody.
      const own = openPool(connection, 2);
      undo.push(() => own.close());
      if (config.key === null) await refuseOtherMachines(own, hostname());
      const { instance, role } = config;
      const process = { id: randomUUID(), instance, role, version, schema: knownVersion(), host: hostname() };
      const shared = await shareDuties({ db: own, log, process, wanted: allDuties });
      undo.push(() => shared.stop());
      const news = await spreadNews({ db: own, changes, id: process.id, log });
      undo.push(() => news.stop());
      return shared.duties;
    }

    async function embedded(): Promise<Connection> {
      const database: EmbeddedDatabase = await startEmbedded(folder);
      database.onLoss(onLoss);
      undo.push(() => database.close());
      return database.connection;
    }
  } catch (error) {
    await close();
    if (isFullDisk(error)) throw fullDisk(config.data, 'has no room', error);
    const unreachable = config.databaseUrl === null ? null : connectionFault(error);
    if (unreachable !== null) throw unreachable;
    throw error;
  }
}
