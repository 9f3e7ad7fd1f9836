// npm run doctor [-- --data DIR]: looks a data folder through.
import { ensureInstalled, run } from './prepare.mjs';

await ensureInstalled();
process.exit(
  await run(process.execPath, ['--import', 'tsx', 'src/lib/server/process/doctor.ts', ...process.argv.slice(2)])
);
