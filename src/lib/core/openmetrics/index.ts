export {
  familyTypes,
  readExposition,
  type ExposedSample,
  type Exposition,
  type FamilyType,
  type LineFault,
  type MetricFamily
} from './parse';
export { meaningOf, ucumOf, type ExposedMeaning } from './meaning';
