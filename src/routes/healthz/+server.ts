import { text } from '@sveltejs/kit';
import { bussola } from '$server/process/running';

/** Whether the process does its work, by the age of what it did last; it never waits for the database. */
export const GET = () => {
  const { ok, faults } = bussola().health.report();
  return text(ok ? 'ok\n' : `${faults.join('\n')}\n`, { status: ok ? 200 : 503 });
};
