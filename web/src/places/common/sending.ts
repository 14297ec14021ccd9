/** Sends a file that was made elsewhere, going on after interruptions, also on another computer. */
import { Upload, type DetailedError } from 'tus-js-client'
import { reactive } from 'vue'
import { placeFile } from '../../api/files'
import { Problem, toProblem, type Schemas } from '../../api/client'
import { fileHere } from '../../api/queries'
import { fingerprint } from '../../parts/fingerprint'

export interface About {
  /** The lecture it is of, where that is known. */
  lecture?: string
  /** The folders it lies in. */
  words?: string
}

export interface Sending {
  readonly name: string
  readonly size: number
  sent: number
  state: 'looking' | 'known' | 'sending' | 'waiting' | 'sent' | 'failed' | 'stopped'
  fault?: unknown
  /** The same file where it is already, while that is known. */
  here?: Schemas['FilesHere']
  track: string
  recording: string
}

export interface Sender {
  now: Sending
  /** Sends it, though it is here. */
  again: () => Promise<void>
  /** Stops, and takes back what was sent. */
  stop: () => Promise<void>
  /** Stops, and leaves what was sent to be gone on with. */
  pause: () => void
  /** Settles when it is sent, or is not sent any more. */
  ended: Promise<void>
}

function problemOf(error: Error): Problem {
  const answer = (error as Partial<DetailedError>).originalResponse
  if (!answer) return new Problem(0, 'unreachable')
  let body: unknown
  try {
    body = JSON.parse(answer.getBody())
  } catch {
    body = undefined
  }
  return toProblem(answer.getStatus(), body)
}

const trackOf = (address: string) => address.slice(address.lastIndexOf('/') + 1)

/** send begins at once. What the file turns out to be is said in now. */
export function send(file: File, about: About): Sender {
  const now = reactive<Sending>({
    name: file.name,
    size: file.size,
    sent: 0,
    state: 'looking',
    track: '',
    recording: '',
  })
  let upload: Upload | undefined
  let print: string | undefined
  let end: () => void = () => undefined
  const ended = new Promise<void>((done) => (end = done))
  const left = () => now.state === 'stopped'

  function fail(fault: unknown) {
    now.state = 'failed'
    now.fault = fault
    end()
  }

  async function look(): Promise<void> {
    if (file.size === 0) return fail(new Problem(0, 'empty_file'))
    // Where it cannot be known whether it is here, it is sent.
    print = await fingerprint(file).catch(() => undefined)
    const here = print ? await fileHere(print).catch(() => undefined) : undefined
    if (left()) return
    const begun = here?.here.find((x) => x.mine && x.percent < 100 && !x.deleted)
    if (begun) return goOn(begun.track_id)
    if (here && here.here.length + here.elsewhere > 0) {
      now.here = here
      now.state = 'known'
      return
    }
    start(undefined, false)
  }

  /** What one has begun to send, here or on another computer, is gone on with. */
  async function goOn(track: string) {
    try {
      if (about.lecture) await placeFile(track, about.lecture)
    } catch (e) {
      return fail(e)
    }
    start(`/api/append/${track}`, false)
  }

  function start(at: string | undefined, again: boolean) {
    now.state = 'sending'
    now.here = undefined
    const metadata: Record<string, string> = {
      filename: file.name,
      filetype: file.type,
      source: 'file',
      modified_ms: String(file.lastModified),
    }
    if (about.lecture) metadata.lecture = about.lecture
    if (about.words) metadata.words = about.words
    if (print) metadata.print = print
    if (again) metadata.again = 'yes'
    upload = new Upload(file, {
      endpoint: '/api/append',
      uploadUrl: at ?? null,
      chunkSize: 32 * 1024 * 1024,
      retryDelays: [500, 1000, 2000, 2000, 4000, 8000, 8000],
      storeFingerprintForResuming: false,
      metadata,
      onUploadUrlAvailable: () => (now.track = trackOf(upload?.url ?? '')),
      onAfterResponse: (_, answer) => {
        now.recording = answer.getHeader('Late-Lantern-Recording') ?? now.recording
      },
      onShouldRetry: (error) => {
        if (
          error.originalResponse &&
          error.originalResponse.getStatus() < 500 &&
          error.originalResponse.getStatus() !== 409
        )
          return false
        if (problemOf(error).kind === 'here') return false
        now.state = 'waiting'
        return true
      },
      onProgress: (done) => {
        now.state = 'sending'
        now.sent = done
      },
      onSuccess: () => {
        now.state = 'sent'
        now.sent = file.size
        end()
      },
      onError: (error) => {
        const problem = problemOf(error)
        // Someone else has begun with it meanwhile; or it was oneself, and the answer was lost.
        if (problem.kind === 'here' && !again) void look()
        else fail(problem)
      },
    })
    upload.start()
  }

  void look()
  return {
    now,
    ended,
    again: async () => start(undefined, true),
    stop: async () => {
      now.state = 'stopped'
      await upload?.abort(true).catch(() => undefined) // what was sent is taken back as soon as the server is reached
      end()
    },
    pause: () => {
      if (now.state === 'sending' || now.state === 'waiting') now.state = 'stopped'
      void upload?.abort().catch(() => undefined)
      end()
    },
  }
}
