// Runs the parser's worker from its TypeScript source, in development and tests.
import { register } from 'tsx/esm/api';

register();
export default (await import(new URL('../src/lib/server/parsing/parser.worker.ts', import.meta.url).href)).default;
