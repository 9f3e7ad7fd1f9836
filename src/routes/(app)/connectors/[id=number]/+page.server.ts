import { error } from '@sveltejs/kit';
import { connectorById, listRecordings } from '$server/connectors/stored-connectors';
import { allAccounts } from '$server/inventory/accounts';
import { bussola } from '$server/process/running';
import type { PageServerLoad } from './$types';

export const load: PageServerLoad = async ({ params }) => {
  const { db } = bussola();
  const connector = await connectorById(db, Number(params.id));
  if (connector === null)
    error(404, { message: 'There is no such connector.', remedy: 'Choose one on the page Connectors.' });
  const accounts = (await allAccounts(db)).filter(({ provider }) => provider === connector.key);
  return {
    connector: { ...connector, recordings: await listRecordings(db, connector.id) },
    accounts: accounts.map(({ id, name }) => ({ id, name }))
  };
};
