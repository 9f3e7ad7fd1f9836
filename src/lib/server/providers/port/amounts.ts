import { microsFromText, type Micros } from '$lib/core/cost';
import { malformed } from './exchange';

/** An amount as a bill has it. @throws ProviderError (malformed) for what is none */
export function amountFrom(text: string): Micros {
  const amount = microsFromText(text);
  if (amount === null)
    throw malformed(`The bill has an amount that is no number: ${JSON.stringify(text.slice(0, 40))}.`);
  return amount;
}
