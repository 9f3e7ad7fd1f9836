import { Changes } from '../src/lib/server/base/changes';
import { createTransport } from 'nodemailer';
import { startApp } from '../tests/support/app';
import { rule, threshold } from '../tests/support/alarm';
import { processorAlarm, routeTo, stressMachine, type House } from '../tests/support/bussola';
import { middleOf, type Measurement } from './measurement';

/** Messages that are measured: half of them raise, half clear. */
const messages = 50;
const machine = 'booking-web-2';
const address = 'latency@example.test';

/**
 * From the moment at which the last sample of an evaluation window becomes due at the provider to the message in the inbox, on the built application with the embedded database: pulled over HTTP, stored, judged, routed, queued, and
 * sent over SMTP. Against one mail that is sent to the same inbox directly.
 */
export async function notifyLatency(): Promise<Measurement> {
  const app = await startApp({ accounts: true });
  try {
    const { db, clock, standIns, data } = app;
    const house = { bussola: { db, changes: new Changes() }, standIns, clock, data } as unknown as House;
    await app.live(3);
    const route = await routeTo(house, address);
    await processorAlarm(house, machine, {
      ...{ name: 'Latency', route, rule: rule(1, 1, { levels: [threshold('above', 80)] }) }
    });
    stressMachine(house, machine, 20, 3);
    await app.live(3);
    const arrived = (): number => standIns.mailbox.mails.filter(({ to }) => to.includes(address)).length;
    const seconds: number[] = [];
    for (let sent = 0; sent < messages; sent++) {
      // The next minute's reading, and no other, changes the state.
      stressMachine(house, machine, sent % 2 === 0 ? 95 : 20, 1);
      const before = arrived();
      clock.pass(1);
      const begun = performance.now();
      while (arrived() === before) {
        if (performance.now() - begun > 30_000) throw new Error(`message ${sent + 1} did not arrive`);
        await new Promise((resolve) => setTimeout(resolve, 5));
      }
      seconds.push((performance.now() - begun) / 1000);
    }
    seconds.sort((a, b) => a - b);
    const ours = seconds[Math.ceil(messages * 0.95) - 1] as number;
    const theirs = await directly(standIns.smtpPort, () => standIns.mailbox.mails.length);
    return {
      ...{ name: 'notify.latency', unit: 's', better: 'lower', ours, theirs },
      alternative: 'one mail sent to the same inbox directly',
      note: `95th of 100 in ${messages} messages, from a reading being due to the mail, the pull of the provider included`,
      more: { middle: middleOf(seconds), longest: seconds.at(-1) as number }
    };
  } finally {
    await app.stop();
  }
}

/** Seconds in which a mail reaches the inbox without Bussola, the middle of several. */
async function directly(port: number, arrived: () => number): Promise<number> {
  const transport = createTransport({ host: '127.0.0.1', port, secure: false, ignoreTLS: true });
  const seconds: number[] = [];
  for (let sent = 0; sent < 9; sent++) {
    const before = arrived();
    const begun = performance.now();
    await transport.sendMail({ from: 'a@example.test', to: address, subject: `directly ${sent}`, text: 't' });
    while (arrived() === before) await new Promise((resolve) => setTimeout(resolve, 1));
    seconds.push((performance.now() - begun) / 1000);
  }
  transport.close();
  return middleOf(seconds);
}
