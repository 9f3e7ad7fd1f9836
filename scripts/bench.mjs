// npm run bench [-- NAME…]: prints one JSON line a measurement.
import { ensureInstalled, run } from './prepare.mjs';

await ensureInstalled();
process.exit(
  await run(process.execPath, ['--expose-gc', '--import', 'tsx', 'bench/main.ts', ...process.argv.slice(2)])
);
