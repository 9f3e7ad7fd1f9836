// Learning
export { fitBand, type BandOptions } from './fit';
export { hourLevels, levelHours, type HourLevels } from './levels';
export { type BandModel, type Season } from './model';
export { chooseTransform } from './choose-transform';
export { restored, transformed, transformedColumn, type Transform } from './transform';
// Drawing and judging
export { bandCells, bandEdge, bandLeadHours, bandOn, type BandCells } from './cells';
export { asStored, modelBytes, modelFromBytes } from './stored';
