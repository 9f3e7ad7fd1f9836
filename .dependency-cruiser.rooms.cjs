// Rooms of the server, the folders below src/lib/server: a later one may import an earlier one, never the other way round, not even by way of a third.
// Tests are left out: they start whole applications, so every room would need every other.
const { options } = require('./.dependency-cruiser.cjs');

/** @type {import('dependency-cruiser').IConfiguration} */
module.exports = {
  forbidden: [
    {
      name: 'no-cycles-of-rooms',
      comment: 'Two rooms that need each other are one room, or one of them holds something that belongs elsewhere.',
      severity: 'error',
      scope: 'folder',
      from: { path: '^src/lib/server/' },
      to: { circular: true }
    }
  ],
  options: { ...options, exclude: { path: '(\\.test\\.ts$|^tests/)' } }
};
