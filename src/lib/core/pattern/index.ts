export { isPattern, matchesAny, wildcard } from './wildcard';
