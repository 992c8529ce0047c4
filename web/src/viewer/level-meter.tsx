import { Box } from '@chakra-ui/react'
import { type ReactElement, type RefObject, useEffect, useRef } from 'react'

const [lowest, highest] = [-60, 0]

/** One audio context for the page: browsers allow few. */
let context: AudioContext | null = null

/** Peak levels of what is heard, left and right, in decibels below full scale (dBFS). */
export function LevelMeter({ media }: { media: RefObject<HTMLMediaElement | null> }): ReactElement {
  const bars = useRef<HTMLDivElement>(null)
  useEffect(() => {
    const player = media.current
    if (!player) return
    context ??= new AudioContext()
    void context.resume()
    const source = context.createMediaElementSource(player)
    const splitter = context.createChannelSplitter(2)
    const sides = [0, 1].map((channel) => {
      const analyser = (context as AudioContext).createAnalyser()
      analyser.fftSize = 2048
      splitter.connect(analyser, channel)
      return { analyser, samples: new Float32Array(analyser.fftSize) }
    })
    source.connect(splitter)
    source.connect(context.destination)
    let handle = 0
    const draw = (): void => {
      sides.forEach(({ analyser, samples }, channel) => {
        analyser.getFloatTimeDomainData(samples)
        const peak = samples.reduce((most, sample) => Math.max(most, Math.abs(sample)), 0)
        const decibels = peak === 0 ? Number.NEGATIVE_INFINITY : 20 * Math.log10(peak)
        const bar = bars.current?.children[channel] as HTMLElement | undefined
        if (!bar) return
        const part = Math.max(0, Math.min(1, (decibels - lowest) / (highest - lowest)))
        bar.style.setProperty('--level', `${100 * part}%`)
        bar.dataset.level = decibels.toFixed(1)
        const words = Number.isFinite(decibels) ? `${decibels.toFixed(0)} dBFS` : 'silent'
        bar.setAttribute('aria-label', `${channel === 0 ? 'Left' : 'Right'}: ${words}`)
        ;(bar.lastElementChild as HTMLElement).textContent = `${channel === 0 ? 'L' : 'R'} ${words}`
      })
      handle = requestAnimationFrame(draw)
    }
    draw()
    return () => {
      cancelAnimationFrame(handle)
      source.disconnect()
      splitter.disconnect()
    }
  }, [media])
  return (
    <Box ref={bars} position="absolute" top="2" left="3" width="13rem" aria-label="Levels" data-testid="levels">
      {['left', 'right'].map((channel) => (
        <Box key={channel} role="img" position="relative" height="1.1rem" mb="1" bg="rgba(20,19,17,0.78)">
          <Box position="absolute" inset="0" width="var(--level, 0%)" bg="#7d9c95" />
          <Box position="relative" color="#fff" fontSize="0.72rem" px="1.5" fontFamily="mono" />
        </Box>
      ))}
    </Box>
  )
}
