export { unit, type Unit } from './unit';
export { digits, displayScale, quantity, quantityText, type Quantity } from './display';
