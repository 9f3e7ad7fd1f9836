// Builds the entries of worker threads into build/workers, after `vite build` (the adapter empties build/).
import { fileURLToPath } from 'node:url';
import { defineConfig } from 'vite';

const source = (path: string) => fileURLToPath(new URL(`./src/lib/server/${path}`, import.meta.url));

export default defineConfig({
  // Not public: this copies the migrations as they are to where the built server reads them.
  publicDir: source('db/migrations'),
  resolve: {
    alias: {
      $lib: fileURLToPath(new URL('./src/lib', import.meta.url)),
      $server: fileURLToPath(new URL('./src/lib/server', import.meta.url))
    }
  },
  build: {
    ssr: true,
    outDir: 'build/workers',
    emptyOutDir: true,
    target: 'node20',
    rollupOptions: {
      input: {
        'make-database.worker': source('db/make-database.worker.ts'),
        'embedded.worker': source('db/embedded.worker.ts'),
        'parser.worker': source('parsing/parser.worker.ts'),
        'connector.worker': source('providers/connector/expressions/connector.worker.ts'),
        'picture.worker': source('notify/pictures/picture.worker.ts'),
        'summary.worker': source('summary/drawn/summary.worker.ts'),
        'query.worker': source('query/query.worker.ts'),
        'engine.worker': source('engine/engine.worker.ts'),
        'logs.worker': source('logs/logs.worker.ts'),
        'cost.worker': source('cost/cost.worker.ts'),
        'backup.process': source('backup/backup.process.ts'),
        data: source('process/data.ts'),
        settings: source('process/settings.ts'),
        'watchdog.worker': source('process/watchdog.worker.ts')
      },
      output: { entryFileNames: '[name].js', format: 'es' }
    }
  }
});
