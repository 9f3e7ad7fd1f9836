import { BarController, BarElement, CategoryScale, Chart, LinearScale, LogarithmicScale } from 'chart.js';
import annotation from 'chartjs-plugin-annotation';
import { CourseController } from './course';

Chart.register(BarController, BarElement, CategoryScale, CourseController, LinearScale, LogarithmicScale, annotation);
Chart.defaults.font.family = "'JetBrains Mono Variable', monospace";
Chart.defaults.font.size = 10.5;
Chart.defaults.animation = false;

/** Chart.js with what Bussola draws with, and in its type. */
export { Chart };
