export { serviceByKey, serviceOfType, serviceOrder, services, type Service } from './services';
