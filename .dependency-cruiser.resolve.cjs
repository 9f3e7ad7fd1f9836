const { join } = require('node:path');
module.exports = {
  resolve: { alias: { $server: join(__dirname, 'src/lib/server'), $lib: join(__dirname, 'src/lib') } }
};
