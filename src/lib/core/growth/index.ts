export { growthOf, leastCells, reachedWhen, type Growth, type Reached } from './growth';
export { monthsOf, type MonthOf } from './months';
