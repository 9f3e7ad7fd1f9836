import type { KeyScope } from '../people/key-scopes';
import type { Role } from '../people/rights';
import type { OutlineRow } from './outline';

/** A parameter, or a part of one. */
export interface ParameterRow extends OutlineRow {
  readonly place: 'path' | 'query';
}

/** An operation in the list of all. */
export interface ListedOperation {
  readonly name: string;
  readonly method: 'GET' | 'POST' | 'PUT' | 'DELETE';
  readonly path: string;
  readonly tag: string;
  readonly summary: string;
  readonly right: Role | 'anybody';
  readonly scope: KeyScope | null;
}

/** An operation with what it takes and answers. */
export interface ShownOperation extends ListedOperation {
  readonly parameters: readonly ParameterRow[];
  readonly body: readonly OutlineRow[];
  /** Bodies that show what can be sent, by their media types. */
  readonly examples: readonly { readonly type: string; readonly text: string }[];
  readonly answer: readonly OutlineRow[];
  readonly types: readonly string[];
  readonly status: number;
  /** Whether it may be sent again with an Idempotency-Key. */
  readonly mayRepeat: boolean;
  /** The same from a shell. */
  readonly shell: string;
}
