export { namesIn, partsIn, type Formula, type Operator } from './tree';
export { mostFormulaCharacters, mostFormulaDepth, readFormula } from './read';
