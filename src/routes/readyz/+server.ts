import { json } from '@sveltejs/kit';
import { bussola } from '$server/process/running';

/** Whether it may be asked: how old its last commit and its last round are, how the disk stands, and how much of the journal has been read. */
export const GET = async () => {
  const { store, health, disk } = bussola();
  const report = health.report();
  return json(
    { ready: report.ok, health: report, disk: disk.state(), store: await store.samples.progress() },
    { status: report.ok ? 200 : 503 }
  );
};
