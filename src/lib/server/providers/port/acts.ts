import type { Abilities, ProviderAction } from '$lib/core/response';
import type { ProviderAccess } from './provider';

/** What came of something that a provider was told to do. */
export interface ActAnswer {
  readonly state: 'going' | 'done' | 'failed';
  /** In the provider's words; may be empty. */
  readonly says: string;
}

/** What can be done with resources at a provider. Nothing here tries a second time by itself: whether that is safe, the caller knows. */
export interface Acts {
  /** What can be done with a resource now. @throws ProviderError */
  abilities(access: ProviderAccess, resource: string): Promise<Abilities>;
  /** What would come of it, in sentences; nothing is done. @throws ProviderError */
  foretell(access: ProviderAccess, resource: string, action: ProviderAction): Promise<readonly string[]>;
  /**
   * Does it, at most once for each key.
   *
   * @throws ProviderError where it was not taken, or the answer was lost
   */
  act(access: ProviderAccess, resource: string, action: ProviderAction, key: string): Promise<ActAnswer>;
  /** What came of what was told under a key; null where the provider never took it. Left out where it cannot say. @throws ProviderError */
  outcome?(access: ProviderAccess, key: string): Promise<ActAnswer | null>;
}
