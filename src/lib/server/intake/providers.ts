import type { Clock } from '$lib/core/time';
import { levanteProvider } from './levante/levante';
import type { Provider } from './provider';

/** The providers Bussola knows, by the key that accounts keep. */
export const providersWith = (clock: Clock): Readonly<Record<string, Provider>> => ({
  levante: levanteProvider(clock)
});

export const providerNames: Readonly<Record<string, string>> = { levante: 'Levante' };
