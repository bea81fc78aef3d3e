/** What lets our own scripts and styles into a page; the browser hides it from scripts once it has read it. */
import { createContext } from 'react'

export const NonceContext = createContext<string | undefined>(undefined)
