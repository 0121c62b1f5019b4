import { Box, Flex, Link, Text } from '@chakra-ui/react'
import { Download } from 'lucide-react'
import { Card, Section } from '../../shared/Parts'
import { useInMyUnits } from '../../shared/ShopContext'
import { useBurn } from './useBurn'

/** The files of the latest fixed design; what cannot be written says why. */
export function FilesCard() {
  const { page } = useBurn()
  const inMyUnits = useInMyUnits()
  return (
    <Card p="3">
      <Section title={`Files of ${page.code}`}>
        {page.files.map((file) =>
          file.refused ? (
            <Box key={`${file.kind} ${file.part}`} py="1.5">
              <Text fontWeight="600">{file.name}</Text>
              <Text fontSize="14px" color="emberOnSoft">
                {inMyUnits(file.refused)}
              </Text>
            </Box>
          ) : (
            <Link
              key={`${file.kind} ${file.part}`}
              href={`/api/trials/${page.id}/revisions/${page.revision}/files/${file.kind}?part=${file.part}`}
              download
              display="flex"
              minH="40px"
              fontWeight="600"
              color="ink"
              borderBottomWidth="1px"
              borderColor="line"
              data-file={file.kind}
            >
              <Flex align="center" justify="space-between" width="100%">
                {file.name}
                <Download size={18} aria-hidden="true" />
              </Flex>
            </Link>
          ),
        )}
      </Section>
    </Card>
  )
}
