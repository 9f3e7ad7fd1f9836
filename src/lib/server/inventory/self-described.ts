/** The provider of accounts whose samples other programs send. */
export const pushedProvider = 'pushed';
/** The provider of accounts of OpenMetrics pages. */
export const pagesProvider = 'pages';

/** Whether the metrics of a provider are what each of its accounts says for itself: two of them may mean different things by one name. */
export const isSelfDescribed = (provider: string | undefined): boolean =>
  provider === pushedProvider || provider === pagesProvider;
