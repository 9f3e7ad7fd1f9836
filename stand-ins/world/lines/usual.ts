import { failing } from './troubled';
import { debug, error, info, warn, type LineWorld, type Pick, type Written } from './line';

/** Addresses that belong to nobody (RFC 5737). */
const documentationNets = ['192.0.2', '198.51.100', '203.0.113'] as const;

const routes = ['PER-SEL', 'SEL-PER', 'AMB-ROC', 'ROC-AMB', 'DOR-PER', 'PER-DOR'] as const;
const vessels = ['capra', 'medusa', 'nautilo', 'orata', 'spigola', 'triglia'] as const;

const hex = (pick: Pick, what: number, digits: number): string =>
  Array.from({ length: digits }, (_, index) => pick.whole(what + index, 0, 15).toString(16)).join('');

/** A web server's access line: fields apart from each other by spaces. */
export const access = (pick: Pick, world: LineWorld): Written => {
  const path = pick.of(1, ['/fares', '/search', '/seats', '/orders', '/orders/confirm', '/timetable', '/health']);
  const isBusy = pick.unit(10) < 0.4 * failing(world, pick.at);
  const status = isBusy ? 503 : pick.unit(2) < 0.965 ? 200 : pick.of(3, [301, 404, 404, 429, 500]);
  const seconds = (isBusy ? 5 + pick.unit(4) : 0.012 + pick.unit(4) ** 3 * 0.9).toFixed(3);
  const client = `${documentationNets[pick.whole(5, 0, 2)]}.${pick.whole(6, 1, 254)}`;
  const text = `${client} ${pick.of(7, ['GET', 'GET', 'GET', 'POST'])} ${path}?route=${pick.of(8, routes)} ${status} ${pick.whole(9, 180, 24_000)} ${seconds}`;
  return { severity: status >= 500 ? error : status >= 400 ? warn : info, text, fields: {} };
};

/** Fares: key=value. */
export const quote = (pick: Pick): Written => {
  const route = pick.of(1, routes);
  if (pick.unit(2) < 0.04)
    return {
      severity: warn,
      text: `level=warn msg="seatmap did not answer" attempt=${pick.whole(3, 1, 3)} of=3 route=${route}`,
      fields: {}
    };
  const took = pick.whole(4, 6, 44);
  return {
    severity: info,
    text: `level=info msg="served fare" route=${route} fare=${(8 + pick.unit(5) * 90).toFixed(2)} took=${took}ms request=${hex(pick, 20, 8)}`,
    fields: {}
  };
};

/** The release of checkout that brought a shape of its own was deployed this long before the start. */
const release = 290 * 3_600_000;

/** Orders: structured, with their numbers as fields. Since its last release it prices by rules, and says too much of what customers entered. */
export const checkout = (pick: Pick, { start }: LineWorld): Written => {
  const order = 880_000 + (Math.floor(pick.at / 7000) % 90_000);
  const customer = `c-${pick.whole(2, 1000, 9999)}`;
  const chance = pick.unit(1);
  if (chance < 0.02)
    return {
      severity: error,
      text: `payment of order ${order} was declined`,
      fields: { order, customer, reason: pick.of(3, ['limit', 'expired', 'unknown card']) }
    };
  if (pick.at >= start - release) {
    if (chance < 0.03)
      return {
        severity: debug,
        text: `asks the bank about order ${order}: authorization=bearer made-up.${hex(pick, 70, 24)}`,
        fields: { order }
      };
    if (chance < 0.04)
      return {
        severity: warn,
        text: `card ${madeUpCard(pick)} of ${customer}@example.test was entered three times`,
        fields: { order, customer }
      };
    if (chance < 0.14)
      return {
        severity: info,
        text: `order ${order} priced by rule ${pick.whole(6, 1, 9)} in ${pick.whole(7, 2, 30)} ms`,
        fields: { order, rule: pick.whole(6, 1, 9) }
      };
  }
  return {
    severity: info,
    text: `order ${order} paid`,
    fields: { order, customer, amount: Math.round(pick.unit(4) * 12_000) / 100, took_ms: pick.whole(5, 40, 400) }
  };
};

/** Digits that pass the check of card numbers (Luhn), in a range that no issuer has. */
function madeUpCard(pick: Pick): string {
  const digits = [9, 9, 9, 9, ...Array.from({ length: 11 }, (_, index) => pick.whole(100 + index, 0, 9))];
  const sum = digits.reduce((all, digit, index) => {
    const counted = index % 2 === 0 ? 2 * digit : digit;
    return all + (counted > 9 ? counted - 9 : counted);
  }, 0);
  return [...digits, (10 - (sum % 10)) % 10].join('').replace(/(\d{4})(?=\d)/g, '$1 ');
}

export const seatmap = (pick: Pick): Written =>
  pick.unit(1) < 0.8
    ? {
        severity: info,
        text: `drew the deck plan of ${pick.of(2, vessels)} in ${pick.whole(3, 3, 90)} ms`,
        fields: { vessel: pick.of(2, vessels) }
      }
    : { severity: info, text: `cache holds ${pick.whole(4, 300, 480)} of 512 MiB`, fields: {} };

/** A node of a cluster. */
export const node = (pick: Pick): Written =>
  pick.unit(1) < 0.7
    ? {
        severity: info,
        text: `warden[${pick.whole(2, 700, 720)}]: container ${hex(pick, 30, 12)} answers its check in ${pick.whole(3, 1, 9)} ms`,
        fields: {}
      }
    : { severity: info, text: `warden[${pick.whole(2, 700, 720)}]: image ${hex(pick, 50, 10)} is there`, fields: {} };

export const gate = (pick: Pick): Written =>
  pick.unit(1) < 0.97
    ? {
        severity: info,
        text: `ticket ${pick.whole(2, 10_000_000, 99_999_999)} accepted at gate ${pick.whole(3, 1, 12)}`,
        fields: { gate: pick.whole(3, 1, 12) }
      }
    : {
        severity: warn,
        text: `ticket ${pick.whole(2, 10_000_000, 99_999_999)} refused at gate ${pick.whole(3, 1, 12)}: ${pick.of(4, ['already used', 'other departure', 'cannot be read'])}`,
        fields: {}
      };

export const database = (pick: Pick): Written =>
  pick.unit(1) < 0.6
    ? {
        severity: info,
        text: `statement took ${(pick.unit(2) ** 4 * 900).toFixed(3)} ms: select seat from seats where sailing = ${pick.whole(3, 40_000, 41_000)} for update`,
        fields: {}
      }
    : {
        severity: info,
        text: `wrote ${pick.whole(4, 40, 4000)} pages in ${(pick.unit(5) * 30).toFixed(3)} s, ${(pick.unit(6) * 0.4).toFixed(3)} s of it waiting for the disk`,
        fields: {}
      };

/** A gateway on a vessel. */
export const gateway = (pick: Pick): Written => ({
  severity: info,
  text: `position sent: ${(40 + pick.unit(1)).toFixed(4)} north, ${(8 + pick.unit(2)).toFixed(4)} east, ${pick.whole(3, 0, 22)} knots, link ${pick.whole(4, 60, 99)} %`,
  fields: { satellites: pick.whole(5, 6, 14) }
});

/** A replication follows its source. */
export const replication = (pick: Pick): Written => ({
  severity: info,
  text: `piece ${Math.floor(pick.at / 20_000).toString(16)} copied in ${pick.whole(1, 30, 400)} ms`,
  fields: {}
});

/** A store of objects: who put what. */
export const store = (pick: Pick): Written => ({
  severity: info,
  text: `put manifests/${pick.of(1, routes)}/${pick.whole(2, 1000, 9999)}.pdf ${pick.whole(3, 20_000, 900_000)} bytes`,
  fields: { bucket: 'manifests' }
});

/** A function that handles positions. */
export const position = (pick: Pick): Written => ({
  severity: info,
  text: `position of ${pick.of(1, vessels)} handled in ${pick.whole(2, 12, 60)} ms`,
  fields: { vessel: pick.of(1, vessels) }
});

/** A balancer's access line: who asked whom for what, and how long both took. */
export const passedOn = (pick: Pick): Written => {
  const status = pick.unit(1) < 0.97 ? pick.of(2, [200, 200, 201, 204]) : pick.of(2, [404, 409, 502, 504]);
  const whole = 4 + pick.unit(3) ** 3 * 700;
  const client = `${documentationNets[pick.whole(4, 0, 2)]}.${pick.whole(5, 1, 254)}`;
  const asked = `${pick.of(6, ['GET', 'POST', 'PUT'])} ${pick.of(7, ['/pallets', '/weights', '/bookings', '/quays'])}/${pick.whole(8, 100, 999)}`;
  return {
    severity: status >= 500 ? error : status >= 400 ? warn : info,
    text: `${client} ${asked} ${status} ${whole.toFixed(1)}ms target=freight-desk-1 target_ms=${(whole * (0.7 + 0.25 * pick.unit(9))).toFixed(1)}`,
    fields: {}
  };
};

/** A queue: what was taken, and what came back unconfirmed. */
export const queue = (pick: Pick): Written =>
  pick.unit(1) < 0.96
    ? {
        severity: info,
        text: `${pick.whole(2, 1, 40)} messages taken by ${pick.of(3, ['gate-audit', 'boarding', 'refunds'])} in ${pick.whole(4, 3, 90)} ms`,
        fields: { taken: pick.whole(2, 1, 40) }
      }
    : {
        severity: warn,
        text: `message ${hex(pick, 10, 12)} is back in the queue: it was not confirmed within 30 s`,
        fields: { tries: pick.whole(5, 2, 5) }
      };

/** A cache: what it put out, and what took long. */
export const cache = (pick: Pick): Written => {
  const chance = pick.unit(1);
  if (chance < 0.05)
    return {
      severity: warn,
      text: `slow: a look-up of ${pick.whole(2, 100, 900)} keys took ${pick.whole(3, 60, 400)} ms`,
      fields: {}
    };
  return chance < 0.7
    ? {
        severity: info,
        text: `put out ${pick.whole(2, 1, 300)} keys, ${(pick.unit(3) * 4).toFixed(2)} MiB, the least used first`,
        fields: {}
      }
    : {
        severity: debug,
        text: `holds ${pick.whole(2, 40_000, 90_000)} keys in ${pick.whole(3, 400, 900)} MiB`,
        fields: {}
      };
};

/** A machine group that follows the load. */
export const group = (pick: Pick): Written =>
  pick.unit(1) < 0.8
    ? {
        severity: info,
        text: `gate-api-${pick.whole(2, 1, 2)} passed its check in ${pick.whole(3, 2, 40)} ms`,
        fields: {}
      }
    : {
        severity: info,
        text: `wants ${pick.whole(4, 2, 3)} machines for ${pick.whole(5, 20, 90)} % of load`,
        fields: { wanted: pick.whole(4, 2, 3) }
      };

/** A network gateway: tunnels and what it turned away. */
export const tunnels = (pick: Pick): Written =>
  pick.unit(1) < 0.85
    ? {
        severity: info,
        text: `tunnel ${pick.of(2, ['perla-sella', 'perla-capra', 'perla-dorsale'])} renewed its keys in ${pick.whole(3, 20, 200)} ms`,
        fields: {}
      }
    : {
        severity: warn,
        text: `turned away ${pick.whole(4, 1, 60)} packets of ${documentationNets[pick.whole(5, 0, 2)]}.${pick.whole(6, 1, 254)} to port ${pick.of(7, [22, 23, 445, 3389])}`,
        fields: {}
      };
