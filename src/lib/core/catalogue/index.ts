export {
  CatalogueSearch,
  catalogueStates,
  type CatalogueEntry,
  type CatalogueFilter,
  type CatalogueState
} from './search';
