export { markSchema, type Mark, type NewMark } from './mark';
