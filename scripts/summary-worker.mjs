// Runs the worker that draws summaries from its TypeScript source, in development and tests.
import { register } from 'tsx/esm/api';

register();
const worker = await import(new URL('../src/lib/server/summary/drawn/summary.worker.ts', import.meta.url).href);
export default worker.default;
