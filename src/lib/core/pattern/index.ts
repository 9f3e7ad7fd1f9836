export { isPattern, matchesAny, stars, wildcard } from './wildcard';
