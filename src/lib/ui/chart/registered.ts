import {
  _adapters,
  BarController,
  BarElement,
  CategoryScale,
  Chart,
  LinearScale,
  LogarithmicScale,
  TimeScale,
  type DateAdapter
} from 'chart.js';
import annotation from 'chartjs-plugin-annotation';
import 'chartjs-adapter-luxon';
import { addedAlike } from './added-alike';
import { CourseController } from './course';

Chart.register(
  BarController,
  BarElement,
  CategoryScale,
  CourseController,
  LinearScale,
  LogarithmicScale,
  TimeScale,
  annotation
);
const byCalendar = Reflect.get(_adapters._date.prototype as DateAdapter, 'add');
_adapters._date.override({
  add(at, amount, unit) {
    return addedAlike(at, amount, unit) ?? byCalendar.call(this, at, amount, unit);
  }
});

Chart.defaults.font.family = "'JetBrains Mono Variable', monospace";
Chart.defaults.font.size = 10.5;
Chart.defaults.animation = false;

/** Chart.js with what Bussola draws with, and in its type. */
export { Chart };
