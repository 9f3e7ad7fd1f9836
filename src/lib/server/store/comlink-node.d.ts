// comlink ships its adapter for worker threads without a declaration that its path resolves to.
declare module 'comlink/dist/esm/node-adapter.mjs' {
  import type { Endpoint } from 'comlink';
  import type { MessagePort, Worker } from 'node:worker_threads';

  export default function nodeEndpoint(port: MessagePort | Worker): Endpoint;
}
