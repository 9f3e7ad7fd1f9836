// npm run screenshots: remakes docs/screenshots from the demo data.
import { ensureBuilt, ensureInstalled, run } from './prepare.mjs';

await ensureInstalled();
await ensureBuilt();
process.exit(await run(process.execPath, ['--import', 'tsx', 'demo/screenshots.ts']));
