// How the built application is run, wherever it is run from.

/** A service that runs for months: garbage is collected when the heap has grown by a quarter, not when it has doubled or more, and what is young takes 4 MB at most. */
export const applicationArguments = ['--heap-growing-percent=25', '--max-semi-space-size=4', 'scripts/serve.mjs'];

/**
 * Its threads take and give back many small columns; with an arena of memory for each thread, what is given back would mostly lie idle. What is larger than 128 kB is mapped by itself and
 * returned to the system at once: by default the C library raises that limit as it goes, to keep what it may use again, which cost 50 MB. These count from the start of the process only.
 */
export const applicationEnvironment = {
  MALLOC_ARENA_MAX: '2',
  MALLOC_MMAP_THRESHOLD_: '131072',
  MALLOC_TRIM_THRESHOLD_: '131072'
};

/**
 * What other programs send comes in batches of several megabytes. A connection stays open for longer than clients and proxies (60 s) hold an idle one: whoever sends a request in the
 * very moment in which it is closed gets no answer. What has been asked before the end has so many seconds to be answered.
 */
export const servingEnvironment = {
  BODY_SIZE_LIMIT: '16M',
  KEEP_ALIVE_TIMEOUT: '75',
  SHUTDOWN_TIMEOUT: '20'
};
