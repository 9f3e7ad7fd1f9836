export {
  connectorFileForm,
  connectorParts,
  connectorSchema,
  longestConnector,
  type Connector,
  type ConnectorLimits,
  type ConnectorPages,
  type ConnectorPart,
  type ConnectorRequest,
  type ConnectorSignIn
} from './schema';
export { expressionsOf, type PlacedExpression } from './expressions';
