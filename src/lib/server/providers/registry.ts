import type { Clock } from '$lib/core/time';
import { levanteProvider } from './levante/levante';
import { maestroProvider } from './maestro/maestro';
import { ostroProvider } from './ostro/ostro';
import type { Provider } from './port/provider';

/** The providers Bussola knows, by the key that accounts keep. */
export const providersWith = (clock: Clock): Readonly<Record<string, Provider>> => ({
  levante: levanteProvider(clock),
  ostro: ostroProvider(clock),
  maestro: maestroProvider(clock)
});
