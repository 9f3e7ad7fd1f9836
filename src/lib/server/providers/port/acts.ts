import type { Abilities, ProviderAction } from '$lib/core/response';

/** What came of something that a provider was asked to do. */
export interface ActAnswer {
  readonly state: 'going' | 'done' | 'failed';
  /** In the provider's words; may be empty. */
  readonly says: string;
}

/** What can be done with the resources of an account. Nothing here tries a second time by itself: whether that is safe, the caller knows. */
export interface Acts {
  /** What can be done with a resource now. @throws ProviderError */
  readonly abilities: (resource: string) => Promise<Abilities>;
  /** What would come of it, in sentences; nothing is done. @throws ProviderError */
  readonly foretell: (resource: string, action: ProviderAction) => Promise<readonly string[]>;
  /**
   * Does it, at most once for each key.
   *
   * @throws ProviderError where it was not taken, or the answer was lost
   */
  readonly act: (resource: string, action: ProviderAction, key: string) => Promise<ActAnswer>;
  /** What came of what was asked for under a key; null where the provider never took it. Left out where it cannot say. @throws ProviderError */
  readonly outcome?: (key: string) => Promise<ActAnswer | null>;
}
