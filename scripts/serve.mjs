// Serves the built application, by HTTP or with a certificate of its own by HTTPS. Flags: --config FILE (or BUSSOLA_CONFIG), --check (only checks the settings).
import { readFileSync, unwatchFile, watchFile } from 'node:fs';
import { createServer } from 'node:http';
import { createServer as createSecureServer } from 'node:https';
import { parseArgs } from 'node:util';
import { servingEnvironment } from './application.mjs';

/** What tells a service manager that starting again changes nothing (EX_CONFIG). */
const unusableSettings = 78;

let ending = false;

const { file, check } = flags();
const config = await configOrEnd(file);
if (check) {
  console.log('The settings can be used.');
  process.exit(0);
}
await serve(config);

async function serve({ host, port, tls, origin }) {
  for (const name of ['ADDRESS_HEADER', 'PROTOCOL_HEADER', 'HOST_HEADER', 'PORT_HEADER']) delete process.env[name];
  process.env.ORIGIN = origin; // whatever a request says of its host
  // Bussola itself starts with this; what goes wrong there it says itself.
  const { handler } = await import('../build/handler.js');
  const serving = tls === null ? createServer() : createSecureServer(certificateOf(tls));
  serving.keepAliveTimeout = Number(process.env.KEEP_ALIVE_TIMEOUT) * 1000;
  serving.on('request', (request, response) => {
    request.on('close', () => ending && serving.closeIdleConnections());
    handler(request, response, () => response.writeHead(404).end());
  });
  serving.once('error', (error) => {
    console.error(`Bussola cannot listen at ${host}, port ${port}: ${reasonOf(error)}`);
    process.exitCode = 1;
    process.emit('sveltekit:shutdown', error.code);
  });
  serving.listen({ host, port }, () => console.log(`Listening on ${addressOf(serving, tls)}, for ${origin}`));
  if (tls !== null) renewWith(serving, tls);
  for (const name of ['SIGTERM', 'SIGINT']) process.on(name, () => end(serving, name));
}

/** Answers what has been asked, then ends. A second signal changes nothing. */
function end(serving, signal) {
  if (ending) return;
  ending = true;
  const patience = Number(process.env.SHUTDOWN_TIMEOUT) * 1000;
  const cut = setTimeout(() => serving.closeAllConnections(), patience);
  serving.close(() => {
    clearTimeout(cut);
    process.emit('sveltekit:shutdown', signal);
  });
  serving.closeIdleConnections();
}

function certificateOf({ cert, key }) {
  return { cert: readFileSync(cert), key: readFileSync(key), minVersion: 'TLSv1.2' };
}

/** Takes a renewed certificate without a pause: when its file changes, and on SIGHUP. One that cannot be used changes nothing. */
function renewWith(serving, tls) {
  const renew = () => {
    try {
      serving.setSecureContext(certificateOf(tls));
      console.log(`The certificate ${tls.cert} was read again.`);
    } catch (error) {
      console.error(`The certificate ${tls.cert} could not be read again, the earlier one stays: ${error.message}`);
    }
  };
  const changed = (now, before) => now.mtimeMs !== before.mtimeMs && now.size > 0 && renew();
  for (const file of [tls.cert, tls.key]) watchFile(file, { interval: 60_000 }, changed);
  process.on('SIGHUP', renew);
  serving.once('close', () => [tls.cert, tls.key].forEach((file) => unwatchFile(file)));
}

function reasonOf({ code, message }) {
  const reasons = {
    EADDRINUSE: 'another program listens there. Stop that one, or set PORT.',
    EACCES: 'this user may not. Set PORT to 1024 or more, or grant the right to bind low ports.',
    EADDRNOTAVAIL: 'this machine has no such address. Set HOST.'
  };
  return reasons[code] ?? message;
}

function addressOf(serving, tls) {
  const { address, port, family } = serving.address();
  return `${tls === null ? 'http' : 'https'}://${family === 'IPv6' ? `[${address}]` : address}:${port}`;
}

/** Settings of the environment and of the file; the file's are put into the environment, where Bussola reads them. */
async function configOrEnd(from) {
  let built;
  try {
    built = await import('../build/workers/settings.js');
  } catch (error) {
    if (error.code !== 'ERR_MODULE_NOT_FOUND') throw error;
    console.error('Bussola is not built here. Run: npm ci && npm run build');
    process.exit(1);
  }
  try {
    const read = built.settingsFrom(process.env, from);
    Object.assign(process.env, read.fromFile);
    for (const [name, value] of Object.entries(servingEnvironment)) process.env[name] ||= value;
    for (const warning of read.warnings) console.error(`In the environment ${warning}`);
    return read.config;
  } catch (error) {
    if (!('remedy' in error)) throw error;
    console.error(`Bussola does not start: ${error.message}\n${error.remedy}`);
    process.exit(unusableSettings);
  }
}

function flags() {
  try {
    const { values } = parseArgs({
      options: { config: { type: 'string' }, check: { type: 'boolean', default: false } }
    });
    return { file: values.config ?? process.env.BUSSOLA_CONFIG ?? null, check: values.check };
  } catch (error) {
    console.error(`${error.message}\nFlags: --config FILE, --check.`);
    process.exit(64);
  }
}
