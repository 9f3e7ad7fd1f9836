// npm start [-- --config FILE] [-- --check]: Bussola as a team runs it, without demo data and stand-ins. docs/guides/install-and-run.md says the rest.
import { spawn } from 'node:child_process';
import { applicationArguments, applicationEnvironment } from './application.mjs';
import { root } from './prepare.mjs';

const child = spawn(process.execPath, [...applicationArguments, ...process.argv.slice(2)], {
  cwd: root,
  env: { ...process.env, ...applicationEnvironment },
  stdio: 'inherit'
});
for (const signal of ['SIGTERM', 'SIGINT', 'SIGHUP']) process.on(signal, () => child.kill(signal));
child.once('exit', (code, signal) => process.exit(code ?? (signal ? 1 : 0)));
