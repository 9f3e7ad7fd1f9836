export {
  isOwnService,
  oneOfType,
  serviceByKey,
  serviceOfType,
  serviceOrder,
  services,
  severalOfType,
  withArticle,
  type Service
} from './services';
