import { Box } from '@chakra-ui/react'
import { useQuery } from '@tanstack/react-query'
import './markdown.css'

/** Markdown as safe HTML: only text, lists, tables, links and code; links leave without telling where from. */
async function safeHtml(text: string): Promise<string> {
  const [{ marked }, { default: purify }] = await Promise.all([import('marked'), import('dompurify')])
  const html = await marked.parse(text, { gfm: true, breaks: true })
  const clean = purify.sanitize(html, {
    ALLOWED_TAGS: [
      'p', 'br', 'strong', 'em', 'del', 'code', 'pre', 'ul', 'ol', 'li', 'blockquote', 'h1', 'h2', 'h3', 'h4',
      'table', 'thead', 'tbody', 'tr', 'th', 'td', 'a', 'hr',
    ], // prettier-ignore
    ALLOWED_ATTR: ['href', 'title'],
    ALLOWED_URI_REGEXP: /^(?:https?:|mailto:|\/(?!\/))/i,
    RETURN_DOM: true,
  })
  if (!(clean instanceof Element)) return ''
  for (const link of clean.querySelectorAll('a')) {
    link.rel = 'noopener noreferrer nofollow'
    link.target = '_blank'
  }
  return clean.innerHTML
}

/** Whether a text says more in Markdown than it says as it stands; most notes do not, and need not wait for it. */
export const isPlain = (text: string) => !/[*_`#[\]|~<>\n]|^\s*[-+\d]|:\/\//.test(text)

/** A note as its author meant it. Until it is ready, and where it is plain, the text itself. */
export function Markdown({ text }: { text: string }) {
  const html = useQuery({
    queryKey: ['markdown', text],
    queryFn: () => safeHtml(text),
    staleTime: Infinity,
    enabled: !isPlain(text),
  })
  if (!html.data) return <Box whiteSpace="pre-wrap">{text}</Box>
  return <Box className="markdown" dangerouslySetInnerHTML={{ __html: html.data }} />
}
