// A program that evaluates an expression without end, for a test that kills it: says the ids of the processes that it has started.
import { readFileSync } from 'node:fs';
import { connectorPool } from '../../src/lib/server/providers/connector/connector-pool';

const pool = connectorPool({ patienceMs: 600_000 });
const prelude = { values: {}, functions: {} };
const body = Buffer.from('{}');
await pool.take(prelude, { body, path: '', take: { one: '1' }, bindings: {} });
const endless = '($f := function($x) { $f($x + 1) }; $f(1))';
void pool.take(prelude, { body, path: '', take: { endless }, bindings: {} });
const pids = readFileSync(`/proc/${process.pid}/task/${process.pid}/children`, 'utf8').trim().split(' ').map(Number);
process.send?.(pids);
