/**
 * Looks again and again until a condition yields something, then gives that. It waits for the thing itself, not for a time to pass.
 *
 * @throws naming what was waited for, when it has not come within the patience
 */
export async function until<T>(
  what: string,
  look: () => Promise<T | null | undefined | false> | T | null | undefined | false,
  patienceMs = 90_000
): Promise<T> {
  const end = performance.now() + patienceMs;
  for (;;) {
    const found = await look();
    if (found) return found;
    if (performance.now() > end) throw new Error(`until: ${what} did not come within ${patienceMs} ms`);
    await new Promise((next) => setTimeout(next, 25));
  }
}
