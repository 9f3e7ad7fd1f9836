import { pino, type Logger } from 'pino';
import type { Config } from './config';
import { withoutSecrets } from './without-secrets';

/**
 * Writes what happens as lines of JSON to the standard output. Nothing that is secret in the settings is in them, however it got into what is logged.
 *
 * @param write takes a line; the standard output does by default
 * @example loggerOf(config).info({ port: 3000 }, 'listening')
 */
export function loggerOf(
  config: Pick<Config, 'logLevel' | 'secrets'>,
  write: (line: string) => void = (line) => process.stdout.write(line)
): Logger {
  const clean = withoutSecrets(config.secrets);
  return pino(
    {
      level: config.logLevel,
      base: { pid: process.pid },
      timestamp: pino.stdTimeFunctions.isoTime,
      formatters: { level: (label) => ({ level: label }) },
      redact: { paths: ['*.password', '*.secret', '*.token', '*.authorization', '*.cookie'], censor: '…' }
    },
    { write: (line: string) => write(clean(line)) }
  );
}
