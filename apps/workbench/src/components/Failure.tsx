import type { ReactNode } from 'react'

/** What went wrong, told at once to those who listen to the page; nothing where nothing did. */
export function Failure({ children, className = '' }: { children: ReactNode; className?: string }) {
  if (!children) return null
  return (
    <p className={`notice notice-bad ${className}`} role="alert">
      {children}
    </p>
  )
}
