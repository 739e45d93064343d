import type { Metadata } from 'next'
import type { ReactNode } from 'react'
import '@fontsource-variable/atkinson-hyperlegible-next'
import '@fontsource-variable/atkinson-hyperlegible-mono'
import '@/ui/theme/theme.scss'

export const metadata: Metadata = { title: 'Vivid Node', description: 'Design, wire, program, tune and publish the devices you build' }

export default function Layout({ children }: { children: ReactNode }) {
  return <html lang="en"><body>{children}</body></html>
}
