'use client';

import type { Answer } from '../api';

/** Where an upload stands. */
export interface Sending {
  readonly name: string;
  readonly size: number;
  readonly done: number;
  /** Bytes a second. */
  readonly rate: number;
  readonly stop: () => void;
}

/** Sends a body with progress; a refusal comes back as a value. */
export function send<T>(
  url: string,
  body: Blob,
  name: string,
  onProgress: (sending: Sending | undefined) => void,
): Promise<Answer<T>> {
  return new Promise((resolve) => {
    const request = new XMLHttpRequest();
    const started = performance.now();
    const report = (done: number) => {
      const rate = done / ((performance.now() - started) / 1000 || 1);
      onProgress({ name, size: body.size, done, rate, stop: () => request.abort() });
    };
    const end = (answer: Answer<T>) => {
      onProgress(undefined);
      resolve(answer);
    };
    const failed = (code: string, sentence: string, status = 0) =>
      end({ ok: false, error: { status, code, sentence } });
    request.upload.onprogress = (event) => report(event.loaded);
    request.onerror = () =>
      failed('no-answer', 'The upload broke off. Is the server still running? Nothing of it is left.');
    request.onabort = () => failed('stopped', 'The upload was stopped; nothing of it is left.');
    request.onload = () => {
      let answer: T & { error?: { code: string; sentence: string } };
      try {
        answer = JSON.parse(request.responseText) as typeof answer;
      } catch {
        return failed('unknown', `The server answered ${request.status}, and not in words. Its log says more.`);
      }
      if (request.status < 300) return end({ ok: true, value: answer });
      const { code = 'unknown', sentence = `The server answered ${request.status}.` } = answer.error ?? {};
      failed(code, sentence, request.status);
    };
    report(0);
    request.open('PUT', url);
    request.send(body);
  });
}
