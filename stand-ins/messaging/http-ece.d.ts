declare module 'http_ece' {
  import type { ECDH } from 'node:crypto';

  interface Parameters {
    readonly version: 'aes128gcm';
    readonly privateKey: ECDH;
    readonly authSecret: string;
  }
  const ece: { decrypt(body: Buffer, parameters: Parameters): Buffer };
  export default ece;
}
