export { FormulaFault, namesIn, type Formula, type Operator, type Place } from './tree';
export { mostFormulaCharacters, mostFormulaDepth, readFormula } from './read';
