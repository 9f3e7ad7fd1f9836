// What a board is
export {
  agree,
  boardColumns,
  boardForm,
  boardSchema,
  boardShape,
  boardTitleSchema,
  limitsProblem,
  mapSignals,
  mostPanels,
  panelSchema,
  refreshes,
  signalsOf,
  type Board,
  type Panel,
  type PanelContent,
  type PanelOf,
  type PictureKind,
  type GridArea,
  type Section,
  type SignalPanel,
  type TimePanel
} from './schema';
export {
  dateForms,
  reductions,
  type Axis,
  type DateForm,
  type Legend,
  type Reduction,
  type SnapshotColumn
} from './pictures';
export { comparisons, limitsIn, limitWords, reached, reaches, type Bound, type CellLimit } from './limits';
export { seenState, seenStates, type SeenResource, type SeenState } from './seen';
// Where panels go
export { bySection, freeId, freePlace, settled, usualSize, withPanel } from './grid-area';
// Changing one
export {
  addPanel,
  addSection,
  changePanel,
  duplicatePanel,
  inPicture,
  moveSection,
  pictured,
  placePanels,
  removePanel,
  removeSection,
  signalPictures,
  type SignalPicture
} from './edit';
export { suggestedPicture, whySuggested, type SuggestFacts } from './suggest';
// Choices for the whole board
export {
  choicesFrom,
  followedBy,
  duplicatePicker,
  freePickerName,
  mostPickers,
  pickedSignal,
  readAs,
  withChoice,
  type Choices,
  type LabelsOf,
  type Picker,
  type Reading
} from './picker';
// Versions
export { boardOf, type SavedBoard } from './saved-board';
export { mergeBoards, type Conflict, type Merged } from './merge';
export { differencesOf, spokenDifference, summaryOf, type Difference } from './differ';
// Figures of answers
export {
  figureOf,
  completeValues,
  figuresOf,
  histogramOf,
  snapshotRows,
  sortedRows,
  type Bin,
  type Figure,
  type SnapshotRow
} from './figures';
// Ready ones are in './starters': what only reads a board does not load them
// Who may see and change one
export { boardRights, governs, rightOn, sharingSchema, type BoardRight, type Reader, type Sharing } from './rights';
// In another workspace. Files are read and written by './file', which only what needs it loads
export { mappedBoard, namesIn, type BoardMapping, type BoardNames } from './mapping';

export { dueBy, type Reports } from './silence';
