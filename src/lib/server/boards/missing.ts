/** What is said of a board that is not there. */
export const noSuchBoard = {
  message: 'There is no such board.',
  remedy: 'It may have been removed. See the list of boards.'
};
