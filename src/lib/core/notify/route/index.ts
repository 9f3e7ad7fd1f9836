export {
  contactKinds,
  groupings,
  routeConditionSchema,
  routeForm,
  routeSchema,
  targetSchema,
  type Grouping,
  type Route,
  type RouteCondition,
  type RoutedIncident,
  type Target
} from './route';
export { lackedFor, routeFor, type RoutePart } from './match';
export {
  afterEvent,
  dueMessages,
  emptyThread,
  isOver,
  nextDue,
  type NewsKind,
  type Thread,
  type ThreadEvent,
  type ThreadMessage
} from './thread';
export { personOf, tryRoutes, type RotaWithOverrides, type TriedNotification, type TriedRoutes } from './try-routes';
