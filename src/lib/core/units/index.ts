// Units and how they are shown
export { ratioUnit, unit, type Unit } from './unit';
export { columnPlaces, digits, displayScale, fixed, limitText, quantity, quantityText, type Quantity } from './display';
export { axisEnds } from './axis';
export { alike, findUnits, isCode, rescaling, type FoundUnit } from './find';
// Arithmetic on them
export { addUnits, conversion, divideUnits, isPlain, multiplyUnits, raiseUnit, type DerivedUnit } from './arithmetic';
