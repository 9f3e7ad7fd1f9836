export {
  clusterBoard,
  groupBoard,
  resourceBoard,
  starterBoard,
  starterKeys,
  type StarterBoard,
  type StarterMetric
} from './starter-board';
