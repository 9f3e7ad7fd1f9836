// What a board is
export {
  boardColumns,
  boardSchema,
  boardTitleSchema,
  mostPanels,
  panelSchema,
  type Board,
  type Panel,
  type Place
} from './schema';
// Where panels go
export { freePlace, withPanel } from './place';
