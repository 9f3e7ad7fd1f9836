import { listConnectors } from '$server/connectors/stored-connectors';
import { bussola } from '$server/process/running';
import type { PageServerLoad } from './$types';

export const load: PageServerLoad = async () => ({ connectors: await listConnectors(bussola().db) });
