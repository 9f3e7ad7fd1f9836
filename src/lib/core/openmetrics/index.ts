export { familyTypes, type ExposedSample, type FamilyType, type MetricFamily } from './exposition';
export { meaningOf, ucumOf, type ExposedMeaning } from './meaning';
export { expositionType, writeExposition, type WrittenFamily } from './write';
export { longestLine, mostFaultyLines, readExposition, type Exposition, type LineFault } from './parse';
