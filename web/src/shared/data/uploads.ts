import { ApiProblem, type EventFile } from '../api/client';

/** Sends a file as it is; tells how much of it has gone. */
export const upload = <T = EventFile>(
  address: string,
  body: Blob,
  onProgress: (share: number) => void,
  signal?: AbortSignal,
): Promise<T> =>
  new Promise((resolve, reject) => {
    // fetch cannot tell how much has been sent.
    const request = new XMLHttpRequest();
    request.open('POST', address);
    request.setRequestHeader('Content-Type', 'application/octet-stream');
    request.upload.onprogress = (e) => onProgress(e.lengthComputable ? e.loaded / e.total : 0);
    request.onerror = () => reject(new ApiProblem(0, 'unreachable', 'The server cannot be reached.'));
    request.onabort = () => reject(new ApiProblem(0, 'stopped', 'The upload was stopped.'));
    request.onload = () => {
      let answer: unknown = null;
      try {
        answer = JSON.parse(request.responseText);
      } catch {
        // Told below as a failure.
      }
      if (request.status >= 200 && request.status < 300 && answer) {
        resolve(answer as T);
        return;
      }
      const problem = (answer ?? {}) as { code?: string; detail?: string; field?: string };
      reject(
        new ApiProblem(request.status, problem.code ?? 'failed', problem.detail ?? request.statusText, problem.field),
      );
    };
    signal?.addEventListener('abort', () => request.abort());
    request.send(body);
  });

/** A size in words: 12 kB, 3.4 MB. */
export const sizeText = (bytes: number, language: string): string => {
  const [value, unit] =
    bytes < 1_000_000 ? [Math.max(Math.min(bytes, 1), bytes / 1000), 'kB'] : [bytes / 1_000_000, 'MB'];
  return `${new Intl.NumberFormat(language, { maximumFractionDigits: value < 10 && unit === 'MB' ? 1 : 0 }).format(value)} ${unit}`;
};
