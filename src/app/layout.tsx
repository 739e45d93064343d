import type { Metadata } from 'next'
import { headers } from 'next/headers'
import type { ReactNode } from 'react'
import '@fontsource-variable/atkinson-hyperlegible-next'
import '@fontsource-variable/atkinson-hyperlegible-mono'
import '@/ui/theme/theme.scss'

export const metadata: Metadata = {
  title: 'Vivid Node',
  description: 'Design, wire, program, tune and publish the devices you build',
}

export default async function Layout({ children }: { children: ReactNode }) {
  // Asking for the request's headers has each page rendered for its request: scripts then carry that response's nonce.
  await headers()
  return (
    <html lang="en">
      <body>{children}</body>
    </html>
  )
}
