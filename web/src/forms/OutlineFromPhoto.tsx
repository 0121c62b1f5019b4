import { Box, Flex, Text } from '@chakra-ui/react'
import { useMutation } from '@tanstack/react-query'
import { Camera } from 'lucide-react'
import { Link as RouterLink } from 'react-router'
import { outlineIn } from '../api/photos'
import { FileButton } from '../shared/FileButton'
import { rowsTyped } from './fields'

interface OutlineFromPhotoProps {
  onFound: (found: { outline: string; holes: string }) => void
}

/** Takes the corners and holes of a piece from a photo with the reference card beside it. */
export function OutlineFromPhoto({ onFound }: OutlineFromPhotoProps) {
  const find = useMutation({
    mutationFn: outlineIn,
    onSuccess: ({ outline, holes }) => onFound({ outline: rowsTyped(outline), holes: rowsTyped(holes) }),
  })
  return (
    <Box mb="1">
      <Flex gap="3" align="center" wrap="wrap">
        <FileButton
          label="Photo of the piece"
          accept="image/*"
          loading={find.isPending}
          onFile={(file) => find.mutate(file)}
        >
          <Camera size={16} /> From a photo
        </FileButton>
        <Text fontSize="13.5px" color="ink2" flex="1" minW="180px">
          From above, on something plain of another colour, the{' '}
          <RouterLink to="/print/reference-card" style={{ textDecoration: 'underline' }}>
            reference card
          </RouterLink>{' '}
          along its longer side.
        </Text>
      </Flex>
      {find.error && (
        <Text role="alert" color="emberOnSoft" fontSize="14.5px" mt="1">
          {find.error.message}
        </Text>
      )}
    </Box>
  )
}
