// Units and how they are shown
export { ratioUnit, unit, type Unit } from './unit';
export { columnPlaces, digits, displayScale, fixed, limitText, quantity, quantityText, type Quantity } from './display';
export { axisEnds } from './axis';
export { isCode } from './term';
export { rescaling } from './rescale';
// Those that search by name are in './find', which only what needs it loads
// Arithmetic on them
export { addUnits, conversion, divideUnits, isPlain, multiplyUnits, raiseUnit, type DerivedUnit } from './arithmetic';
