// npm run bench [-- NAME…]: prints one JSON line a measurement; those of the store on both homes of the database.
import { withPostgres } from './postgres.mjs';
import { ensureInstalled, run } from './prepare.mjs';

await ensureInstalled();
process.exitCode = await withPostgres((address) =>
  run(process.execPath, ['--expose-gc', '--import', 'tsx', 'bench/main.ts', ...process.argv.slice(2)], {
    env: { ...process.env, BUSSOLA_BENCH_POSTGRES: address }
  })
);
