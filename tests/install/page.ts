import { readFileSync } from 'node:fs';

/** A block of commands of the page. */
export interface Block {
  readonly commands: string;
  /** Whether it has settings that depend on the place. */
  readonly isYours: boolean;
}

/** The blocks that the page *Install and run* tells people to run, in their order. */
export function blocksOf(path = 'docs/guides/install-and-run.md'): Block[] {
  return [...readFileSync(path, 'utf8').matchAll(/^```sh( yours)?\n([\s\S]*?)^```$/gm)].map(
    ([, yours, commands = '']) => ({
      commands,
      isYours: yours !== undefined
    })
  );
}
