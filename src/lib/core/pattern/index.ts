export { matchesAny, pieces, wildcard } from './wildcard';
