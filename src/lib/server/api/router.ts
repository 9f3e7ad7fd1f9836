import { Refusal } from '$lib/core/problem/problem';
import type { Method, Operation } from './operation';

/** An operation with the parts of its path. */
interface Route {
  readonly operation: Operation;
  readonly parts: readonly string[];
}

const isParameter = (part: string): boolean => part.startsWith('{');

/** Finds operations by address. */
export class Router {
  readonly #routes: readonly Route[];

  constructor(operations: readonly Operation[]) {
    this.#routes = operations.map((operation) => ({ operation, parts: operation.path.split('/').slice(1) }));
  }

  /**
   * @param path below `/api/v1`, still encoded
   * @throws Refusal `not-found`; `method-not-allowed` naming those that there are
   * @example new Router(operations).find('GET', '/boards/3').params // { id: '3' }
   */
  find(method: string, path: string): { operation: Operation; params: Record<string, string> } {
    const parts = path.split('/').slice(1);
    const there = this.#routes
      .filter((route) => route.parts.length === parts.length)
      .filter((route) => route.parts.every((part, index) => isParameter(part) || part === parts[index]))
      // What is written out comes before what is a parameter: `/boards/plan` before `/boards/{id}`.
      .sort((one, other) => one.parts.filter(isParameter).length - other.parts.filter(isParameter).length);
    const sought = method === 'HEAD' ? 'GET' : method;
    const found = there.find(({ operation }) => operation.method === sought);
    if (!found) {
      const [nearest] = there;
      if (!nearest)
        throw new Refusal('not-found', `There is nothing at ${path.slice(0, 200)}.`, 'See /api/v1/openapi.json.');
      const methods = there.filter(({ parts: of }) => of.join() === nearest.parts.join()).map(methodOf);
      throw new Refusal('method-not-allowed', `${path} does not take ${method}.`, `Use ${methods.join(' or ')}.`);
    }
    const params = found.parts.flatMap((part, index): [string, string][] =>
      isParameter(part) ? [[part.slice(1, -1), decodeURIComponent(parts[index] as string)]] : []
    );
    return { operation: found.operation, params: Object.fromEntries(params) };
  }

  /** What reads an address; null where nothing does. */
  reading(path: string): { operation: Operation; params: Record<string, string> } | null {
    try {
      return this.find('GET', path);
    } catch (error) {
      if (error instanceof Refusal) return null;
      throw error;
    }
  }
}

const methodOf = ({ operation }: Route): Method => operation.method;
