import type { Origin } from '../line';
import { ByteReader, ByteWriter } from './bytes';
import { readFields, writeFields } from './values';

export function writeOrigin(
  writer: ByteWriter,
  { resource, resourceDropped, resourceSchema, scope, scopeSchema }: Origin
): void {
  writeFields(writer, resource);
  writer.varint(resourceDropped);
  writer.text(resourceSchema);
  writer.text(scope.name);
  writer.text(scope.version);
  writeFields(writer, scope.fields);
  writer.varint(scope.dropped);
  writer.text(scopeSchema);
}

export const readOrigin = (reader: ByteReader): Origin => ({
  resource: readFields(reader),
  resourceDropped: reader.varint(),
  resourceSchema: reader.text(),
  scope: { name: reader.text(), version: reader.text(), fields: readFields(reader), dropped: reader.varint() },
  scopeSchema: reader.text()
});

/** Lines of one request have the very same origin, and those of another an equal one. */
const originKeys = new WeakMap<Origin, string>();
export function originKey(origin: Origin): string {
  let key = originKeys.get(origin);
  if (key === undefined) {
    const writer = new ByteWriter();
    writeOrigin(writer, origin);
    key = Array.from(writer.bytes(), (byte) => String.fromCharCode(byte)).join('');
    originKeys.set(origin, key);
  }
  return key;
}
