import type { SecretBox } from '../../src/lib/server/base/secrets';

/** Seals so that tests can see what was sealed. */
export const sealing: SecretBox = {
  seal: (secret) => Buffer.from(`sealed:${secret}`),
  open: (sealed) => sealed.toString().replace(/^sealed:/, '')
};
