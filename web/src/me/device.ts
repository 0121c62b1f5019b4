const SYSTEMS: [RegExp, string][] = [
  [/iPhone|iPad/, 'an iPhone or iPad'],
  [/Android/, 'an Android phone'],
  [/Windows/, 'a Windows PC'],
  [/Macintosh/, 'a Mac'],
  [/Linux|X11/, 'a Linux PC'],
]

/** What a browser says it is, as one would name the device; the first words of it where it is none of these. */
export function device(agent: string): string {
  return SYSTEMS.find(([sign]) => sign.test(agent))?.[1] ?? (agent.slice(0, 40) || 'some device')
}
