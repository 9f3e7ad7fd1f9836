export { decodeChunk, encodeChunk, mostChunkPoints, samplesIn } from './chunk';
