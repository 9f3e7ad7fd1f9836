import type { Person } from '$server/people/people';

declare global {
  /** Makes the press that came before the page's script did; see app.html. */
  function pageAwoke(): void;

  namespace App {
    interface Locals {
      /** Who has signed in; null when nobody has. */
      person: Person | null;
    }
    interface Error {
      message: string;
      /** What a person can do about it. */
      remedy?: string;
    }
  }
}

export {};
