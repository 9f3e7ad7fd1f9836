import type { IncomingMessage } from 'node:http';
import type { Person } from '$server/people/people';
import type { Session } from '$server/people/sessions';

declare global {
  /** Makes the press that came before the page's script did; see app.html. */
  function pageAwoke(): void;

  namespace App {
    interface Locals {
      /** Who has signed in; null when nobody has. */
      person: Person | null;
      /** Their session; null when nobody has signed in. */
      session: Session | null;
      /** Where the request comes from, behind proxies that are named too. */
      address: string;
      /** The path of the operation of the API, with the names of its parameters. */
      operation?: string;
    }
    interface Platform {
      /** As the server took it. */
      req: IncomingMessage;
    }
    interface Error {
      message: string;
      /** What a person can do about it. */
      remedy?: string;
    }
  }
}

export {};
