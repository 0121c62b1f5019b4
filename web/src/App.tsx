import { Box, ChakraProvider } from '@chakra-ui/react'
import { QueryClient, QueryClientProvider, notifyManager } from '@tanstack/react-query'
import { BrowserRouter, Navigate, Route, Routes } from 'react-router'
import { ProblemError } from './api/client'
import { useInventory, useMe } from './api/hooks'
import { AskPage } from './ask/AskPage'
import { BookPage } from './book/BookPage'
import { RecipePage } from './book/RecipePage'
import { Failure, Nothing, Waiting } from './shared/Parts'
import { ShopContext } from './shared/ShopContext'
import { TopBar } from './shared/TopBar'
import { Toasts } from './shared/toast'
import { useChosenUnits } from './shared/useChosenUnits'
import { ShopPage } from './shop/ShopPage'
import { system } from './theme/system'
import { TrialPage } from './trial/TrialPage'
import { TrialsPage } from './trial/TrialsPage'

// Answers are shown with the next microtask; the default waits for a timer first.
notifyManager.setScheduler(queueMicrotask)

const client = new QueryClient({
  defaultOptions: {
    queries: {
      // The caller's mistakes do not get better by asking again.
      retry: (count, error) =>
        count < 2 && !(error instanceof ProblemError && error.status >= 400 && error.status < 500),
      staleTime: 2000,
    },
  },
})

export function App() {
  return (
    <ChakraProvider value={system}>
      <QueryClientProvider client={client}>
        <BrowserRouter>
          <Shop />
          <Toasts />
        </BrowserRouter>
      </QueryClientProvider>
    </ChakraProvider>
  )
}

function Shop() {
  const inventory = useInventory()
  const me = useMe()
  const [units, setUnit] = useChosenUnits()
  const failed = inventory.error ?? me.error
  if (failed) {
    return (
      <Box p="8" maxW="640px" mx="auto">
        <Failure error={failed} retry={() => void Promise.all([inventory.refetch(), me.refetch()])} />
      </Box>
    )
  }
  if (!inventory.data || !me.data) return <Waiting what="the shop" height="100vh" />
  return (
    <ShopContext.Provider value={{ inventory: inventory.data, me: me.data, units, setUnit }}>
      <TopBar />
      <Box as="main" px={{ base: '4', md: '7' }} py="4">
        <Routes>
          <Route path="/" element={<AskPage />} />
          <Route path="/trials" element={<TrialsPage />} />
          <Route path="/trials/:id" element={<TrialPage />} />
          <Route path="/trials/:id/:stage" element={<TrialPage />} />
          <Route path="/book" element={<BookPage />} />
          <Route path="/book/:id" element={<RecipePage />} />
          <Route path="/shop" element={<ShopPage />} />
          <Route path="/ask" element={<Navigate to="/" replace />} />
          <Route path="*" element={<Nothing>There is nothing at this address.</Nothing>} />
        </Routes>
      </Box>
    </ShopContext.Provider>
  )
}
