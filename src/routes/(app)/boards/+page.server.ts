import { favouritesOf, seenBy } from '$server/boards/favourites';
import { allFolders, folderOfBoards } from '$server/boards/folders';
import { summariesFor } from '$server/boards/permit';
import { bussola } from '$server/process/running';
import type { PageServerLoad } from './$types';

export const load: PageServerLoad = async ({ locals: { person }, depends }) => {
  depends('bussola:boards');
  const { db } = bussola();
  const [boards, favourites, seen, folders, folderOf] = await Promise.all([
    summariesFor(db, person),
    favouritesOf(db, person?.id ?? 0),
    seenBy(db, person?.id ?? 0),
    allFolders(db),
    folderOfBoards(db)
  ]);
  const seenAt = new Map(seen.map(({ id, seenAt }) => [id, seenAt]));
  return {
    folders,
    boards: boards.map(({ may, board: { id, title, about, service, panels, changedAt, changedBy, sharing } }) => ({
      id,
      title,
      about: about ?? '',
      service: service ?? null,
      folder: folderOf.get(id) ?? null,
      panels,
      changedAt,
      changedBy,
      isPrivate: sharing.reach === 'private',
      owner: sharing.ownerName,
      may,
      isFavourite: favourites.includes(id),
      seenAt: seenAt.get(id) ?? null
    }))
  };
};
