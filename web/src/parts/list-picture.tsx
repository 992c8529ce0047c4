import { type ComponentProps, type ReactElement, useEffect, useRef } from 'react'

/** Rows that are scrolled past are there for less. */
const momentMilliseconds = 120

/**
 * A picture in a list. It is asked for when its row has been there for a moment, and no more once the row goes:
 * pictures are made one after another, and those that were scrolled past would come before those that are looked at.
 */
export function ListPicture({ src, alt, ...rest }: ComponentProps<'img'> & { src: string; alt: string }): ReactElement {
  const image = useRef<HTMLImageElement>(null)
  useEffect(() => {
    const element = image.current
    const timer = window.setTimeout(() => element?.setAttribute('src', src), momentMilliseconds)
    return () => {
      window.clearTimeout(timer)
      element?.removeAttribute('src')
    }
  }, [src])
  return <img ref={image} alt={alt} {...rest} />
}
