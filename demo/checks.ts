// What Bussola looks at from outside in the demo: the sites and names of Corallo Lines that the stand-ins have.
import { checkSchema, type Check } from '../src/lib/core/reachability';
import { secureName, type Front } from '../stand-ins/front/front';

/** What is looked at from outside, by where the stand-ins listen. */
export const checks = (standIns: string, { secure, names }: Front['ports']): readonly Check[] => {
  const site = (name: string) => `${standIns}/front/sites/${name}`;
  return [
    ...(secure === null
      ? []
      : [
          {
            name: 'Ticket site',
            every: 30,
            target: {
              ...{ kind: 'http', url: `https://127.0.0.1:${secure}/tickets` },
              ...{ contains: 'Where would you like to sail?', trusted: false }
            }
          }
        ]),
    { name: 'Timetable', target: { kind: 'http', url: site('timetable'), contains: 'Departures' } },
    { name: 'Freight desk', every: 300, target: { kind: 'http', url: site('freight-desk') } },
    {
      name: 'Chat of the bridge',
      target: { kind: 'tcp', host: '127.0.0.1', port: Number(new URL(standIns).port) },
      retries: 1
    },
    ...(names === null
      ? []
      : [
          {
            name: 'Name of the ticket site',
            every: 300,
            target: { kind: 'dns', name: secureName, is: '192.0.2.10', server: `127.0.0.1:${names}` }
          }
        ])
  ].map((check) => checkSchema.parse(check));
};
