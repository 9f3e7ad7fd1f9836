import type { Clock } from '$lib/core/time';
import { levanteProvider } from './levante/levante';
import { maestroProvider } from './maestro/maestro';
import { ostroProvider } from './ostro/ostro';
import type { Provider } from './port/provider';

/** How providers are made, by the key that accounts keep. A further one is a folder and a line here. */
export const registered: Readonly<Record<string, (clock: Clock) => Provider>> = {
  levante: levanteProvider,
  ostro: ostroProvider,
  maestro: maestroProvider
};

/** The providers that accounts can be connected at. @example providersWith(clock)['levante']?.name // 'Levante' */
export const providersWith = (clock: Clock, makers = registered): Readonly<Record<string, Provider>> =>
  Object.fromEntries(Object.entries(makers).map(([key, make]) => [key, make(clock)]));
