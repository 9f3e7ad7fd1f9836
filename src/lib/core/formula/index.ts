export { FormulaFault, namesIn, partsIn, type Formula, type Operator, type Place } from './tree';
export { mostFormulaCharacters, mostFormulaDepth, readFormula } from './read';
