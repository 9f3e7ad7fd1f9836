import { RateLimiterMemory, RateLimiterRes } from 'rate-limiter-flexible';

/** Links to confirm that go to one address, and that one person has sent, within an hour. */
const perAddress = { points: 3, duration: 3600 };
const perPerson = { points: 20, duration: 3600 };

export type ConfirmationLimits = ReturnType<typeof confirmationLimits>;

/**
 * Limits links to confirm, so that nobody floods an address with them or delays alarms.
 *
 * @example await confirmationLimits().take(3, 'nerea@example.test') // null: it may be sent
 */
export function confirmationLimits() {
  const ofAddress = new RateLimiterMemory({ ...perAddress, keyPrefix: 'address' });
  const ofPerson = new RateLimiterMemory({ ...perPerson, keyPrefix: 'person' });
  return {
    /** @returns why no link may be sent now, in words; null when one may */
    take: async (personId: number, address: string): Promise<string | null> => {
      try {
        await ofPerson.consume(String(personId));
        await ofAddress.consume(address.toLowerCase());
        return null;
      } catch (refused) {
        if (!(refused instanceof RateLimiterRes)) throw refused;
        const minutes = Math.ceil(refused.msBeforeNext / 60_000);
        return `Enough links have been sent for now: ${perAddress.points} an hour to one address, ${perPerson.points} an hour by one person. Try again in ${minutes} min.`;
      }
    }
  };
}
