import { Text } from '@chakra-ui/react'

/** What is wrong with one part of the design, each sentence once. */
export function Sentences({ errors, about }: { errors: ReadonlyMap<string, string>; about: string }) {
  return [...errors]
    .filter(([path]) => path === about || path.startsWith(`${about}.`))
    .map(([path, sentence]) => (
      <Text key={path} role="alert" color="emberOnSoft" fontSize="13px">
        {sentence}
      </Text>
    ))
}
