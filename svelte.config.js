import adapter from '@sveltejs/adapter-node';
import { vitePreprocess } from '@sveltejs/vite-plugin-svelte';

/** Validation libraries whose types Superforms mentions and nothing here uses. */
const unusedValidators = [
  'arktype',
  'effect',
  'effect/SchemaAST',
  'json-schema-to-ts',
  'superstruct',
  'typebox',
  '@typeschema/class-validator',
  '@vinejs/vine/types',
  'joi',
  'valibot',
  'yup'
];

/** @type {import('@sveltejs/kit').Config} */
export default {
  preprocess: vitePreprocess(),
  kit: {
    adapter: adapter({ out: 'build', precompress: true }),
    alias: { $server: 'src/lib/server' },
    typescript: {
      config: (config) => {
        for (const name of unusedValidators) config.compilerOptions.paths[name] = ['../src/unused-validators.d.ts'];
      }
    },
    // Checked in hooks.server.ts instead: there, routes that take a key of their own are let through.
    csrf: { trustedOrigins: ['*'] },
    csp: {
      mode: 'auto',
      directives: {
        'default-src': ['self'],
        'img-src': ['self', 'data:', 'blob:'],
        'font-src': ['self', 'data:'],
        'style-src': ['self'],
        // Of attributes only that of SvelteKit's element which tells screen readers of a new page; those that the server draws become a sheet (hooks.server.ts).
        'style-src-attr': ['unsafe-hashes', 'sha256-S8qMpvofolR8Mpjy4kQvEm7m1q8clzU4dfDH0AmvZjo='],
        'object-src': ['none'],
        'base-uri': ['self'],
        'form-action': ['self'],
        'frame-ancestors': ['none']
      }
    }
  }
};
