export {
  layerSchema,
  rotaForm,
  rotaSchema,
  weeklyHoursSchema,
  type Layer,
  type Override,
  type Rota,
  type WeeklyHours
} from './rota';
export { calendarText, readCalendar, type CalendarEntry, type Occurrence, type ReadCalendar } from './calendar';
export { calendarRows, type CalendarRow, type CalendarSpan } from './rows';
export { gapsIn, onCallAt, shiftAt, shiftsIn, type Shift, type ShiftSource } from './shifts';
export { disturbedNights, type Disturbance } from './load';
export { hoursText, layerSentence } from './sentence';
