/** What is said of a board that is not there. */
export const noSuchBoard = {
  message: 'There is no such board.',
  remedy: 'It may have been removed. See the list of boards.'
};

/** What is said of a link to a board that is revoked, has run out or never was: the three are not told apart. */
export const noSuchLink = {
  message: 'This link is not valid any more.',
  remedy: 'Ask whoever sent it for a new one.'
};
