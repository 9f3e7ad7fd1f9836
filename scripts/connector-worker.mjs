// Runs the connectors’ worker from its TypeScript source, in development and tests.
import { register } from 'tsx/esm/api';

register();
await import(new URL('../src/lib/server/providers/connector/expressions/connector.worker.ts', import.meta.url).href);
