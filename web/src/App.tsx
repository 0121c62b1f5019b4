import { Box, ChakraProvider } from '@chakra-ui/react'
import { QueryClient, QueryClientProvider, notifyManager, useQueryClient } from '@tanstack/react-query'
import { Suspense, useDeferredValue, useEffect } from 'react'
import { BrowserRouter, Navigate, Route, Routes, useLocation } from 'react-router'
import { ProblemError } from './api/client'
import { useDoor, useInventory, useMe } from './api/hooks'
import type { Inventory, Me } from './api/types'
import { useLive } from './api/useLive'
import { AskPage } from './ask/AskPage'
import { Arrives, later } from './shared/later'
import { Failure, Nothing, Waiting } from './shared/Parts'
import { PhotoDrop } from './shared/PhotoDrop'
import { ShopContext } from './shared/ShopContext'
import { TopBar } from './shared/TopBar'
import { Toasts } from './shared/toast'
import { useChosenUnits } from './shared/useChosenUnits'
import { system } from './theme/system'
import { Connection } from './trial/read/Connection'

// Ask is what one opens Rezept for; the other places come when they are gone to.
const BookPage = later(() => import('./book/BookPage').then((place) => place.BookPage))
const RecipePage = later(() => import('./book/RecipePage').then((place) => place.RecipePage))
const ComparePage = later(() => import('./compare/ComparePage').then((place) => place.ComparePage))
const DoorPage = later(() => import('./door/DoorPage').then((place) => place.DoorPage))
const MePage = later(() => import('./me/MePage').then((place) => place.MePage))
const PrintRecipe = later(() => import('./print/PrintPages').then((place) => place.PrintRecipe))
const PrintReferenceCard = later(() =>
  import('./print/PrintReferenceCard').then((place) => place.PrintReferenceCard),
)
const PrintWall = later(() => import('./print/PrintPages').then((place) => place.PrintWall))
const PrintPlate = later(() => import('./print/PrintPlate').then((place) => place.PrintPlate))
const ShopPage = later(() => import('./shop/ShopPage').then((place) => place.ShopPage))
const TrialPage = later(() => import('./trial/TrialPage').then((place) => place.TrialPage))
const TrialsPage = later(() => import('./trial/TrialsPage').then((place) => place.TrialsPage))

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
        {/* In a transition the next key or click would meet what was before. */}
        <BrowserRouter useTransitions={false}>
          <Door />
          <Toasts />
        </BrowserRouter>
      </QueryClientProvider>
    </ChakraProvider>
  )
}

/** Which side of the door one is on. */
function Door() {
  const door = useDoor()
  if (door.isError) {
    return (
      <Box p="8" maxW="640px" mx="auto">
        <Failure error={door.error} retry={() => void door.refetch()} />
      </Box>
    )
  }
  if (!door.data) return <Waiting what="the shop" height="100vh" />
  if (door.data.signed_in) return <Inside />
  return (
    <Suspense fallback={<Waiting what="the door" height="100vh" />}>
      <DoorPage door={door.data} />
    </Suspense>
  )
}

function Inside() {
  const client = useQueryClient()
  const inventory = useInventory()
  const me = useMe()
  const failed = inventory.error ?? me.error
  const signedOut = failed instanceof ProblemError && failed.status === 401
  useEffect(() => {
    if (signedOut) void client.resetQueries({ queryKey: ['door'] })
  }, [signedOut, client])
  if (failed) {
    return (
      <Box p="8" maxW="640px" mx="auto">
        <Failure error={failed} retry={() => void Promise.all([inventory.refetch(), me.refetch()])} />
      </Box>
    )
  }
  if (!inventory.data || !me.data) return <Waiting what="the shop" height="100vh" />
  return <Shop inventory={inventory.data} me={me.data} />
}

function Shop({ inventory, me }: { inventory: Inventory; me: Me }) {
  const [units, setUnit] = useChosenUnits()
  const place = usePlace()
  useLive(inventory.latest_change, me.id)
  return (
    <ShopContext.Provider value={{ inventory, me, units, setUnit }}>
      <TopBar />
      <PhotoDrop />
      <Connection />
      <Box as="main" px={{ base: '4', md: '7' }} py="4">
        <Arrives of={place.pathname}>
          <Suspense fallback={<Waiting what="the page" height="50vh" />}>
            <Routes location={place}>
              <Route path="/" element={<AskPage />} />
              <Route path="/trials" element={<TrialsPage />} />
              <Route path="/trials/:id" element={<TrialPage />} />
              <Route path="/trials/:id/:stage" element={<TrialPage />} />
              <Route path="/book" element={<BookPage />} />
              <Route path="/book/:id" element={<RecipePage />} />
              <Route path="/compare" element={<ComparePage />} />
              <Route path="/shop" element={<ShopPage />} />
              <Route path="/print/recipe/:id" element={<PrintRecipe />} />
              <Route path="/print/wall/:id" element={<PrintWall />} />
              <Route path="/print/plate/:id" element={<PrintPlate />} />
              <Route path="/print/reference-card" element={<PrintReferenceCard />} />
              <Route path="/me" element={<MePage />} />
              <Route path="/ask" element={<Navigate to="/" replace />} />
              <Route path="*" element={<Nothing>There is nothing at this address.</Nothing>} />
            </Routes>
          </Suspense>
        </Arrives>
      </Box>
    </ShopContext.Provider>
  )
}

/** The address of what is shown: another page once it has come, so that this one stays until then; what the address
 * keeps of the same page at once, so that the next key meets it. */
function usePlace() {
  const asked = useLocation()
  const arrived = useDeferredValue(asked)
  return asked.pathname === arrived.pathname ? asked : arrived
}
