export { growthOf, leastCells, reachedWhen, type Growth, type Reached } from './growth';
