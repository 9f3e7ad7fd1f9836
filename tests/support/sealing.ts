import { createHash } from 'node:crypto';
import type { SecretBox } from '../../src/lib/server/base/secrets';

/** Seals so that tests can see what was sealed. */
export const sealing: SecretBox = {
  seal: (secret) => Buffer.from(`sealed:${secret}`),
  sign: (purpose, bytes) => createHash('sha256').update(`${purpose} `).update(bytes).digest(),
  open: (sealed) => sealed.toString().replace(/^sealed:/, '')
};
