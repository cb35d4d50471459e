// All that can go wrong here, and how it is said. Codes are stable; what stands in brackets tells apart where it
// happens.
import { saying, type Told } from '../result.ts';

export const problem = saying({
  'pod-fault': ({ errorText }: Told<'errorText'>) => ({
    message: `The pod could not carry the file out: ${errorText}`,
    tryNext: ['Stage it again.'],
  }),
  'pod-garbled': ({ what }: Told<'what'>) => ({
    message: `The pod at the other end does not speak as it should: ${what} The connection was given up and is made anew.`,
    tryNext: ['Use the same release for pod and client.', 'Check the network between them.'],
  }),
  'pod-lost': () => ({
    message: 'The connection to the pod was lost.',
    tryNext: [
      'Start the pod again; it is found by itself.',
      'Scan the chain before anything else: the board may be in any state.',
    ],
  }),
  'pod-request': ({ what }: Told<'what'>) => ({
    message: `The pod does not understand this request: ${what}.`,
    tryNext: ['Use the same release for pod and client.'],
  }),
  'pod-silent': ({ silenceMilliseconds }: Told<'silenceMilliseconds'>) => ({
    message: `Nothing has been heard of the pod for ${silenceMilliseconds} s, though it owes an answer.`,
    tryNext: ['Check the network to the pod.', 'Start the pod again.'],
  }),
  'stage-disk': ({ errorText }: Told<'errorText'>) => ({
    message: `The pod could not write the file down: ${errorText}`,
    tryNext: ['Remove files from the pod.', 'Look whether the disk of its computer is full.'],
  }),
  'stage-file': () => ({
    message: 'The pod holds no such file.',
    tryNext: ['Stage it again.'],
  }),
  'stage-file (not complete)': () => ({
    message: 'The pod holds no such file, or it is not complete.',
    tryNext: ['Stage it again.'],
  }),
  'stage-full': ({ mostFiles }: Told<'mostFiles'>) => ({
    message: `The pod holds ${mostFiles} files already.`,
    tryNext: ['Remove one of them, under Pods or with `nimble pod drop`.'],
  }),
  'stage-piece': () => ({
    message: 'This piece belongs to no staged file, or is more than was announced.',
    tryNext: ['Stage the file again.'],
  }),
  'stage-size': ({ mostBytes }: Told<'mostBytes'>) => ({
    message: `The pod takes files of up to ${mostBytes} GiB.`,
    tryNext: ['Divide the file.'],
  }),
});
