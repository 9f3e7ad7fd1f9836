import {
  BarController,
  BarElement,
  CategoryScale,
  Chart,
  Filler,
  LinearScale,
  LineController,
  LineElement,
  LogarithmicScale,
  PointElement,
  TimeScale
} from 'chart.js';
import annotation from 'chartjs-plugin-annotation';
import 'chartjs-adapter-luxon';

Chart.register(
  BarController,
  BarElement,
  CategoryScale,
  Filler,
  LinearScale,
  LineController,
  LineElement,
  LogarithmicScale,
  PointElement,
  TimeScale,
  annotation
);
Chart.defaults.font.family = "'JetBrains Mono Variable', monospace";
Chart.defaults.font.size = 10.5;
Chart.defaults.animation = false;

/** Chart.js with what Bussola draws with, and in its type. */
export { Chart };
