import 'react'

declare module 'react' {
  interface InputHTMLAttributes<T> {
    /** Lets a folder be chosen; all browsers know it, React's types do not. */
    webkitdirectory?: string
  }
}
