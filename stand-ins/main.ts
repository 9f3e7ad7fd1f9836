// The stand-ins as a program of their own: prints one JSON line when they listen, ends on SIGTERM or when its starter is gone.
import { parseArgs } from 'node:util';
import { serveStandIns } from './serve';

const { values } = parseArgs({
  options: {
    port: { type: 'string', default: '4301' },
    'smtp-port': { type: 'string', default: '4302' },
    'issuer-port': { type: 'string', default: '4303' },
    'secure-port': { type: 'string', default: '4304' },
    'name-port': { type: 'string', default: '4305' },
    seed: { type: 'string', default: '1' },
    'clock-file': { type: 'string' },
    'state-file': { type: 'string' }
  }
});

const standIns = await serveStandIns({
  port: Number(values.port),
  smtpPort: Number(values['smtp-port']),
  issuerPort: Number(values['issuer-port']),
  securePort: Number(values['secure-port']),
  namePort: Number(values['name-port']),
  seed: Number(values.seed),
  clockFile: values['clock-file'],
  stateFile: values['state-file']
});
console.log(JSON.stringify({ url: standIns.url, smtpPort: standIns.smtpPort }));

const end = () => void standIns.close().then(() => process.exit(0));
process.once('SIGTERM', end);
process.once('SIGINT', end);
process.once('disconnect', end);
