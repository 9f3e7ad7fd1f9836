export {
  groupBoard,
  resourceBoard,
  starterBoard,
  starterKeys,
  type StarterBoard,
  type StarterMetric
} from './starter-board';
