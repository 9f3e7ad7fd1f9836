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
    /** Lets a minute pass and waits for a message. @returns seconds; null when none came in time */
    const minuteUntil = async (before: number, patienceMs: number): Promise<number | null> => {
      clock.pass(1);
      const begun = performance.now();
      while (arrived() === before && performance.now() - begun < patienceMs)
        await new Promise((resolve) => setTimeout(resolve, 5));
      return arrived() === before ? null : (performance.now() - begun) / 1000;
    };
    // Readings of the provider come with a delay: how many minutes pass until one is judged.
    let minutes = 0;
    stressMachine(house, machine, 95, 600);
    for (let came: number | null = null; came === null; minutes++) {
      if (minutes > 10) throw new Error('nothing was raised');
      came = await minuteUntil(0, 4000);
    }
    const seconds: number[] = [];
    for (let sent = 0; sent < messages; sent++) {
      stressMachine(house, machine, sent % 2 === 0 ? 20 : 95, 600);
      const before = arrived();
      await app.live(minutes - 1);
      if (arrived() !== before) throw new Error(`message ${sent + 1} came before it was due`);
      const taken = await minuteUntil(before, 30_000);
      if (taken === null) throw new Error(`message ${sent + 1} did not arrive`);
      seconds.push(taken);
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
