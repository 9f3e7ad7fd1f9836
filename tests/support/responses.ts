import { randomUUID } from 'node:crypto';
import { responseSchema, usualLimits } from '../../src/lib/core/response';
import type { Alarm } from '../../src/lib/server/alarms/alarms';
import { openIncidentsOfAlarm } from '../../src/lib/server/incidents/incidents';
import { allResources, type Resource } from '../../src/lib/server/inventory/resources';
import { insertPerson, type Person } from '../../src/lib/server/people/people';
import { addResponse } from '../../src/lib/server/responses/manage-responses';
import { responseById, type StoredResponse } from '../../src/lib/server/responses/responses';
import { listRuns, type StoredRun } from '../../src/lib/server/responses/runs';
import { liveMinutes, machineNamed, connectMachines, withHouse } from './bussola';
import { until } from './until';

/** A house with machines, somebody who may act on them, and what tests of responses say again and again. */
export function withActing() {
  const house = withHouse();
  let accountId: number;
  let kaja: Person;
  before(async function () {
    this.timeout(90_000);
    accountId = await connectMachines(house);
    kaja = await insertPerson(house.bussola.db, {
      ...{ name: 'kaja', displayName: 'Kaja', role: 'administrator', passwordHash: '', zone: 'UTC' },
      createdAt: house.clock.now()
    });
  });
  afterEach(() => {
    for (const provider of ['levante', 'ostro', 'maestro'] as const) {
      house.standIns[provider].actMode = 'usual';
      house.standIns[provider].faultMode = 'usual';
    }
  });
  const acting = () => ({ by: 'Kaja', personId: kaja.id, accounts: null });
  const runsOf = ({ id }: StoredResponse) => listRuns(house.bussola.db, { responseId: id }, 100);
  return {
    house,
    accountId: () => accountId,
    kaja: () => kaja,
    acting,
    live: (minutes: number) => liveMinutes(house, accountId, minutes),
    /** A resource by its name, and its type where several have that name. */
    resourceNamed: async (name: string, type = 'machine'): Promise<Resource> => {
      const found = (await allResources(house.bussola.db)).find((one) => one.name === name && one.type === type);
      if (!found) throw new Error(`no ${type} ${name}`);
      return found;
    },
    byHand: (key: string = randomUUID(), confirmed: string | null = null) => ({ by: 'Kaja', key, confirmed }),
    /** A response that restarts what an alarm has raised for two minutes. */
    respond: (alarm: Alarm, more: object = {}): Promise<StoredResponse> =>
      addResponse(
        house.bussola,
        responseSchema.parse({
          ...{ name: `Restart by ${alarm.id}`, alarmId: alarm.id, from: 'major', heldMinutes: 2 },
          ...{ action: { kind: 'restart' }, limits: usualLimits },
          ...more
        }),
        acting()
      ),
    runsOf,
    runIs: (response: StoredResponse, state: StoredRun['state']) =>
      until(`the run is ${state}`, async () => (await runsOf(response)).find((run) => run.state === state)),
    /** Once a response has stopped itself. */
    stopped: ({ id }: StoredResponse) =>
      until('it stops', async () => {
        const now = await responseById(house.bussola.db, id);
        return now?.stoppedAt === null ? null : now;
      }),
    /** What the stand-in was told to do with a machine. */
    ordersOf: (machine: string) =>
      house.standIns.levante.acts.filter(({ resource }) => resource === machineNamed(machine).id),
    raised: (alarm: Alarm) =>
      until('it is raised', async () => (await openIncidentsOfAlarm(house.bussola.db, alarm.id))[0]),
    /** The newest that was done with a resource. */
    newestOf: async ({ id }: Pick<Resource, 'id'>) => (await listRuns(house.bussola.db, { resourceId: id }, 1))[0],
    /** Waits until the newest that was done with a resource stands so; the clock goes on meanwhile. */
    newestIs: (resource: Pick<Resource, 'id'>, state: StoredRun['state']) =>
      until(`what was done is ${state}`, async () => {
        house.clock.pass(0.1);
        const [run] = await listRuns(house.bussola.db, { resourceId: resource.id }, 1);
        return run?.state === state ? run : null;
      })
  };
}
