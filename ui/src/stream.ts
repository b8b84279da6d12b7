/** One of the browser's pages listens for the others: a browser opens few connections. */
type Told = { kind: 'open' | 'ready' } | { kind: 'news'; data: string }
type Heard = (told: Told) => void

function listen(heard: Heard): EventSource {
  const source = new EventSource('/api/events')
  source.onopen = () => heard({ kind: 'open' })
  source.addEventListener('ready', () => heard({ kind: 'ready' }))
  source.onmessage = (e) => heard({ kind: 'news', data: e.data as string })
  return source
}

/**
 * Hears the server's news until the function it returns is called. Where the browser can, one page
 * holds the stream and tells the others; when it goes, the next one takes it over.
 */
export function hear(heard: Heard): () => void {
  if (!('locks' in navigator) || !('BroadcastChannel' in window)) {
    const source = listen(heard)
    return () => source.close()
  }
  const channel = new BroadcastChannel('satchel.news')
  const leaving = new AbortController()
  let holds: EventSource | null = null
  channel.onmessage = (e: MessageEvent<Told | { kind: 'join' }>) => {
    if (e.data.kind !== 'join') heard(e.data)
    else if (holds && holds.readyState === EventSource.OPEN) tellAnew()
  }
  // Anyone who comes later is told the present state, as the stream's beginning tells it.
  const last = new Map<string, string>()
  function tellAnew() {
    channel.postMessage({ kind: 'open' })
    for (const data of last.values()) channel.postMessage({ kind: 'news', data })
    channel.postMessage({ kind: 'ready' })
  }
  channel.postMessage({ kind: 'join' })
  navigator.locks
    .request(
      'satchel.news',
      { signal: leaving.signal },
      () =>
        new Promise<void>((done) => {
          const source = listen((told) => {
            if (told.kind === 'news') last.set((JSON.parse(told.data) as { class: string }).class, told.data)
            heard(told)
            channel.postMessage(told)
          })
          holds = source
          leaving.signal.addEventListener('abort', () => {
            source.close()
            done()
          })
        }),
    )
    .catch(() => undefined) // it left before its turn came
  return () => {
    leaving.abort()
    channel.close()
  }
}
