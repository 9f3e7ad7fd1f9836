import { closeSync, fsyncSync, openSync } from 'node:fs';
import { NodeFS } from '@electric-sql/pglite/nodefs';

/** The part of Emscripten's file system that is completed here. */
interface Files {
  filesystems: {
    NODEFS: {
      stream_ops: { fsync?: (stream: Stream) => number };
      realPath(node: unknown): string;
    };
  };
}

interface Stream {
  /** Descriptor of the file; a folder has none. */
  readonly nfd?: number;
  readonly node: unknown;
}

/** WASI's number for a failed write: PostgreSQL then stops itself rather than go on without its log. */
const failedWrite = 29;

/** With these, PGlite waits for the disk at every commit and checkpoint. Its own default, `-F`, does not. */
export const syncedParameters = ['-c', 'fsync=on', '-c', 'wal_sync_method=fsync'];

/**
 * The folder of an embedded database, whose files are synced to the disk when PostgreSQL requests it. PGlite's own `NodeFS` answers such a request
 * without passing it on, so a commit would be lost with the power.
 *
 * @param onSync called before each request to sync, for tests
 * @example await PGlite.create({ fs: new SyncedFiles('/data/database'), startParams: [...params, ...syncedParameters] })
 */
export class SyncedFiles extends NodeFS {
  constructor(
    folder: string,
    private readonly onSync: () => void = () => undefined
  ) {
    super(folder);
  }

  override async init(...given: Parameters<NodeFS['init']>): ReturnType<NodeFS['init']> {
    const { emscriptenOpts } = await super.init(...given);
    const sync = (module: unknown): void => {
      const { NODEFS } = (module as { FS: Files }).FS.filesystems;
      NODEFS.stream_ops.fsync = (stream) => {
        this.onSync();
        try {
          syncFile(stream, (node) => NODEFS.realPath(node));
          return 0;
        } catch {
          return failedWrite; // what PostgreSQL makes of it is in its own log
        }
      };
    };
    return { emscriptenOpts: { ...emscriptenOpts, preRun: [...(emscriptenOpts.preRun ?? []), sync] } };
  }
}

function syncFile({ nfd, node }: Stream, realPath: (node: unknown) => string): void {
  if (nfd !== undefined) return fsyncSync(nfd);
  const folder = openSync(realPath(node), 'r');
  try {
    fsyncSync(folder);
  } finally {
    closeSync(folder);
  }
}
