import { execFileSync } from 'node:child_process'
import path from 'node:path'
import { tempFolder } from './product'

/** A certificate for this machine that nobody has signed but itself, and its key, as files. Good for two days. */
export function ownCertificate(): { certFile: string; keyFile: string } {
  const folder = tempFolder()
  const [certFile, keyFile] = [path.join(folder, 'cert.pem'), path.join(folder, 'key.pem')]
  const kind = '-x509 -newkey ec -pkeyopt ec_paramgen_curve:prime256v1 -nodes -days 2 -subj /CN=localhost'
  const names = ['-addext', 'subjectAltName=DNS:localhost,IP:127.0.0.1']
  const to = ['-keyout', keyFile, '-out', certFile]
  execFileSync('openssl', ['req', ...kind.split(' '), ...names, ...to], { stdio: 'ignore' })
  return { certFile, keyFile }
}
