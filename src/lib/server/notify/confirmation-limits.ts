import { RateLimiterRes } from 'rate-limiter-flexible';
import { ownLimits, type MakeLimiter } from '../duties/limits';

/** What is sent to one address, and what one person has sent, within an hour. */
const perPerson = { points: 20, duration: 3600 };
const perAddress = { confirmation: { points: 3, duration: 3600 }, test: { points: 12, duration: 3600 } } as const;

export type ConfirmationLimits = ReturnType<typeof confirmationLimits>;

/**
 * Limits links and codes that confirm, and tests, so that nobody floods an address with them or delays alarms.
 *
 * @param limits what they are counted by: of this process, or of all on its database
 * @example await confirmationLimits().take(3, 'nerea@example.test') // null: it may be sent
 */
export function confirmationLimits(limits: MakeLimiter = ownLimits) {
  const limiters = (['confirmation', 'test'] as const).map(
    (what) =>
      [
        what,
        {
          ofAddress: limits({ ...perAddress[what], keyPrefix: `${what} address` }),
          ofPerson: limits({ ...perPerson, keyPrefix: `${what} person` })
        }
      ] as const
  );
  return {
    /**
     * @param personId who asks: a person, or from where somebody does who has not signed in
     * @returns why nothing may be sent now, in words; null when it may
     */
    take: async (
      personId: number | string,
      address: string,
      what: keyof typeof perAddress = 'confirmation'
    ): Promise<string | null> => {
      const { ofAddress, ofPerson } = new Map(limiters).get(what) as (typeof limiters)[number][1];
      try {
        await ofPerson.consume(String(personId));
        await ofAddress.consume(address.toLowerCase());
        return null;
      } catch (refused) {
        if (!(refused instanceof RateLimiterRes)) throw refused;
        const minutes = Math.ceil(refused.msBeforeNext / 60_000);
        const sent = what === 'test' ? 'Enough tests' : 'Enough links and codes';
        return `${sent} have been sent for now: ${perAddress[what].points} an hour to one address, ${perPerson.points} an hour by one person. Try again in ${minutes} min.`;
      }
    }
  };
}
