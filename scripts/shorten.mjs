// The runtime's own names made short, for the board where every name costs. Only what the runtime defines itself is
// renamed, and only where that cannot be anything else: not what stands in any text, is a keyword argument, a module,
// or a name of the interpreter.
const INTERPRETER = new Set(
  `
  Pin ADC PWM Timer WDT UART SoftI2C OneWire NeoPixel StateMachine WLAN socket read write close value irq init deinit reset feed connect disconnect send
  recv sendto recvfrom any text fill count index find split join get items keys values pop append clear remove insert sort strip replace decode encode
  format startswith endswith isdigit update digest active config status isconnected ifconfig register poll ioctl readinto readbit writebit readbyte
  writebyte writeto readfrom readfrom_mem duty_u16 freq atten read_u16 read_uv ticks_ms ticks_us ticks_diff ticks_add sleep_ms sleep_us time stat rename
  open print len range min max abs sum sorted zip enumerate isinstance int float str bytes bytearray list dict set tuple super type round getattr hasattr
  any all ord chr hex id hash iter next map filter slice property staticmethod classmethod object Exception reset_cause deepsleep decrypt wrap_socket
  getpeercert setblocking settimeout check_hostname verify_mode run errno name self main array select network machine add setdefault copy Run turn node client state
`
    .trim()
    .split(/\s+/),
)

/**
 * Words every interpreter has in its firmware and nothing here asks for: a name made of one of them takes no memory.
 */
const ROM = `
  acos acosh asin asinh atan atan2 atanh ceil copysign cos cosh degrees erf erfc exp expm1 fabs floor fmod frexp gamma isfinite isinf isnan ldexp lgamma
  log10 log2 modf radians sin sinh tan tanh trunc isalpha islower isspace isupper lstrip popitem reversed rfind rindex rsplit rstrip issubclass
  oct pow divmod callable upper lower to_bytes from_bytes collect threshold mem_alloc localtime mktime gmtime
`
  .trim()
  .split(/\s+/)

const TOKEN =
  /("""[\s\S]*?"""|'''[\s\S]*?'''|[rbRB]{0,2}"(?:\\.|[^"\\\n])*"|[rbRB]{0,2}'(?:\\.|[^'\\\n])*'|#[^\n]*)|([A-Za-z_]\w*)/g

/** `sources` by path; the same with names made short. */
export function shorten(sources) {
  const modules = new Set(Object.keys(sources).flatMap((path) => path.replace(/\.py$/, '').split('/')))
  const defined = new Map()
  const spoken = new Set()
  const keywords = new Set()
  for (const text of Object.values(sources)) {
    const bare = text.replace(TOKEN, (all, quoted) => {
      if (quoted && !quoted.startsWith('#') && !quoted.includes('"""'))
        for (const word of quoted.match(/[A-Za-z_]\w*/g) ?? []) spoken.add(word)
      return quoted ? '""' : all
    })
    const others = [...bare.matchAll(/^\s*import (.+)$/gm)].flatMap(([, names]) =>
      names.split(',').map((n) => n.trim()),
    )
    for (const [, a, b] of bare.matchAll(new RegExp(`\\b(?:${others.join('|') || '-'})\\.(\\w+)(?:\\.(\\w+))?`, 'g')))
      for (const name of [a, b]) if (name) keywords.add(name)
    for (const [, name] of bare.matchAll(/[(,]\s*(\w+)=(?!=)/g)) keywords.add(name)
    for (const pattern of [
      /^\s*(?:def|class)\s+(\w+)/gm,
      /\.(\w+)\s*(?:=(?!=)|[-+|&]=|,)/g,
      /\.(\w+)(?=\s*=(?!=))/g,
      /^(\w+)(?:\s*,\s*\w+)*\s*=(?!=)/gm,
      /^\w+\s*,\s*(\w+)\s*=(?!=)/gm,
    ])
      for (const [, name] of bare.matchAll(pattern)) defined.set(name, 0)
  }
  for (const text of Object.values(sources))
    for (const [, , word] of text.matchAll(TOKEN))
      if (word && defined.has(word)) defined.set(word, defined.get(word) + 1)
  const fixed = (name) =>
    INTERPRETER.has(name) ||
    modules.has(name) ||
    spoken.has(name) ||
    keywords.has(name) ||
    name.startsWith('__') ||
    name.length < 3
  const used = new Set(Object.values(sources).flatMap((text) => text.match(/[A-Za-z_]\w*/g) ?? []))
  const short = (function* () {
    for (const word of ROM) if (!used.has(word)) yield word
    const letters = 'abcdefghijklmnopqrstuvwxyz'
    for (const a of letters) for (const b of `${letters.toUpperCase()}0123456789`) if (!used.has(a + b)) yield a + b
  })()
  const names = new Map(
    [...defined]
      .filter(([name]) => !fixed(name))
      .sort((a, b) => b[1] - a[1])
      .map(([name]) => [name, short.next().value])
      .filter(([, to]) => to !== undefined),
  )
  return {
    names,
    sources: Object.fromEntries(
      Object.entries(sources).map(([path, text]) => [
        path,
        text.replace(TOKEN, (all, quoted, word) => (word && names.has(word) ? names.get(word) : all)),
      ]),
    ),
  }
}
