import packageFile from '../../../../package.json' with { type: 'json' };

/** Which Bussola this is, such as `0.1.0`. */
export const { version } = packageFile;
