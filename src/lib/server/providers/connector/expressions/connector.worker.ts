// Evaluates the expressions of connectors in a process of its own: whoever wrote them, they see an answer and nothing else, and end with the process.
import { Worker } from 'node:worker_threads';
import workerpool from 'workerpool';
import { Refusal, problemOf, type Problem } from '$lib/core/problem/problem';
import type { ConnectorRequest } from '$lib/core/connector';
import type { Bindings, Prelude } from './evaluate';
import {
  mapAnswer,
  prepare,
  readConnector,
  takeFrom,
  type MappedAnswer,
  type MapTask,
  type PreparedRequest,
  type ReadConnector
} from './tasks';

export type ConnectorTask =
  | { readonly kind: 'read'; readonly text: string }
  | {
      readonly kind: 'prepare';
      readonly prelude: Prelude;
      readonly request: ConnectorRequest;
      readonly bindings: Bindings;
    }
  | { readonly kind: 'map'; readonly prelude: Prelude; readonly task: MapTask }
  | {
      readonly kind: 'take';
      readonly prelude: Prelude;
      readonly task: Pick<MapTask, 'body' | 'path' | 'take' | 'bindings'>;
    };

export type ConnectorResult =
  | { readonly kind: 'read'; readonly read: ReadConnector }
  | { readonly kind: 'prepare'; readonly prepared: PreparedRequest }
  | { readonly kind: 'map'; readonly mapped: MappedAnswer }
  | { readonly kind: 'take'; readonly taken: Readonly<Record<string, unknown>> }
  | { readonly kind: 'refused'; readonly problem: Problem };

async function work(asked: ConnectorTask): Promise<ConnectorResult> {
  try {
    switch (asked.kind) {
      case 'read':
        return { kind: 'read', read: readConnector(asked.text) };
      case 'prepare':
        return { kind: 'prepare', prepared: await prepare(asked.prelude, asked.request, asked.bindings) };
      case 'map':
        return { kind: 'map', mapped: await mapAnswer(asked.prelude, asked.task) };
      case 'take':
        return { kind: 'take', taken: await takeFrom(asked.prelude, asked.task) };
    }
  } catch (error) {
    if (!(error instanceof Refusal)) throw error;
    return { kind: 'refused', problem: problemOf(error) };
  }
}

// While an expression goes on, this process hears nothing: a thread ends it where whoever started it is gone.
const parent = process.ppid;
new Worker(
  `const { workerData: parent } = require('node:worker_threads');
   setInterval(() => { if (process.ppid !== parent) process.kill(process.pid, 'SIGKILL'); }, 1000);`,
  { eval: true, workerData: parent }
).unref();

workerpool.worker({ work });
