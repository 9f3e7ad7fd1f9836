import { isRefused } from '$lib/core/problem/problem';
import type { Logger } from 'pino';
import type { Clock } from '$lib/core/time';
import type { Database } from '../../db/pool';
import type { Duties } from '../../duties/duties';
import type { Readers } from '../../base/readers';
import type { Changes } from '../../base/changes';
import { type Disk } from '../../base/disk';
import type { SecretBox } from '../../base/secrets';
import type { StoreClient } from '../../store/open-store';
import { sealedSecretOf, type Account, type AccountError } from '../../inventory/accounts';
import type { Outbound } from '../../providers/port/outbound';
import { accountGuard, plainGuard, usualLimits, type GuardLimits } from '../../providers/port/guard';
import type { Guard } from '../../providers/port/meter';
import { ProviderError, type Provider, type ProviderAccess } from '../../providers/port/provider';
import type { SeriesBook } from '../../inventory/series-book';
import type { Instant } from '$lib/core/time';

/** What the intake works with. */
export interface Intake {
  readonly db: Database;
  readonly clock: Clock;
  readonly store: StoreClient;
  readonly disk: Disk;
  readonly secrets: SecretBox;
  readonly providers: Readonly<Record<string, Provider>>;
  readonly guards: Guards;
  readonly book: SeriesBook;
  readonly changes: Changes;
  /** Which accounts are this process's to read. */
  readonly duties: Duties;
  /** Who waits for answers: history that is fetched lets them go first. */
  readonly readers: Readers;
  readonly log: Logger;
}

/** The guards of accounts, one each, made when first needed. */
export class Guards {
  readonly #limits: GuardLimits;
  readonly #made = new Map<number, { readonly limits: string; readonly make: () => Guard }>();
  /** Until when other processes leave accounts alone, ms of real time. */
  readonly #rests = new Map<number, number>();
  readonly #changes: Pick<Changes, 'on' | 'tellOthers'> | null;

  /**
   * @param outbound how every account's address is called
   * @param limits of every account
   * @param changes by which processes tell one another whom they leave alone; null for a process alone
   */
  constructor(
    readonly outbound: Outbound,
    limits: Partial<GuardLimits> = {},
    changes: Pick<Changes, 'on' | 'tellOthers'> | null = null
  ) {
    this.#limits = { ...usualLimits, ...limits };
    this.#changes = changes;
    changes?.on('rest', ({ accountId, ms }) => void this.#rests.set(accountId, performance.now() + ms));
  }

  /** A guard with a meter of its own; limits and rest are shared by all of the account. @param own limits of its provider */
  of(accountId: number, own: Partial<GuardLimits> = {}): Guard {
    const limits = JSON.stringify(own);
    let made = this.#made.get(accountId);
    if (made?.limits !== limits) {
      const rests = {
        areOn: () => performance.now() < (this.#rests.get(accountId) ?? 0),
        begin: (ms: number) => this.#changes?.tellOthers('rest', { accountId, ms })
      };
      made = { limits, make: accountGuard({ ...this.#limits, ...own }, rests) };
      this.#made.set(accountId, made);
    }
    return made.make();
  }
}

/** The sealed credential of an account, opened for one use, behind the account's guard. */
export const accessOf = async (
  { db, secrets, guards, providers }: Pick<Intake, 'db' | 'secrets' | 'guards' | 'providers'>,
  { id, endpoint, keyId, provider }: Pick<Account, 'id' | 'endpoint' | 'keyId' | 'provider'>
): Promise<ProviderAccess> => ({
  endpoint,
  keyId,
  secret: secrets.open(await sealedSecretOf(db, id)),
  guard: guards.of(id, providers[provider]?.limits),
  fetch: guards.outbound
});

/** A credential to be tested: no limits, no second tries. */
export const accessToTest = (
  { outbound }: Guards,
  access: Pick<ProviderAccess, 'endpoint' | 'keyId' | 'secret'>
): ProviderAccess => ({
  ...access,
  guard: plainGuard(),
  fetch: outbound
});

export function providerOf(providers: Intake['providers'], account: Pick<Account, 'provider'>): Provider {
  const provider = providers[account.provider];
  if (!provider) throw new Error(`providerOf: no provider "${account.provider}"`);
  return provider;
}

/** A failure in words for the people who look at the account. */
export function errorOf(failure: unknown, at: Instant): AccountError {
  if (failure instanceof ProviderError)
    return { code: failure.code, message: failure.message, remedy: failure.remedy, at };
  if (isRefused(failure, 'disk-low'))
    return { code: failure.code, message: failure.message, remedy: failure.remedy, at };
  return {
    code: 'internal',
    message: 'Bussola could not finish the pull.',
    remedy: 'Look into Bussola’s log; the next pull tries again.',
    at
  };
}
