import { constants } from 'node:zlib';
import { compression, defineAlgorithm } from 'vite-plugin-compression2';

/** Each file also as it goes over the line: compressed once, as small as can be. The server takes the one that is asked for. */
export const compressed = () =>
  compression({
    include: [/\.(js|css|html|json|svg)$/],
    threshold: 0,
    algorithms: [
      defineAlgorithm('gzip', { level: 9 }),
      defineAlgorithm('brotliCompress', { params: { [constants.BROTLI_PARAM_QUALITY]: 11 } }),
    ],
  });
