import { Box, Flex, Input, Text } from '@chakra-ui/react'
import { useRef, useState } from 'react'
import { useHotkeys } from 'react-hotkeys-hook'
import { Moon, Sun } from 'lucide-react'
import { NavLink, useNavigate } from 'react-router'
import { usePickMember } from '../api/hooks'
import { useTheme } from '../theme/useTheme'
import { Button } from './Button'
import { Key } from './Parts'
import { useShop } from './ShopContext'
import { sayFailed } from './toast'
import { unitSign } from './units'
import './topbar.css'

const PLACES = [
  { to: '/', name: 'Ask' },
  { to: '/trials', name: 'Trials' },
  { to: '/book', name: 'Book' },
  { to: '/shop', name: 'Shop' },
]

/** Wordmark, the four places, one search, my units, who I am. */
export function TopBar() {
  const { inventory } = useShop()
  return (
    <Box as="header" borderBottomWidth="1px" borderColor="line" bg="paper">
      <Flex
        align="center"
        wrap="wrap"
        columnGap="6"
        rowGap="2"
        px={{ base: '4', md: '7' }}
        py="2"
        minH="52px"
      >
        <NavLink to="/" aria-label="Rezept, to Ask" className="wordmark">
          Reze<span>p</span>t
        </NavLink>
        <Flex as="nav" gap="1" aria-label="Places">
          {PLACES.map((place) => (
            <NavLink key={place.to} to={place.to} end={place.to === '/'} className="place">
              {place.name}
            </NavLink>
          ))}
        </Flex>
        {inventory.shop?.demo && (
          <Text
            fontSize="13px"
            color="steel"
            bg="steelSoft"
            borderRadius="6px"
            px="2"
            py="0.5"
            hideBelow="md"
          >
            demo shop, all made up
          </Text>
        )}
        <Box flex="1" hideBelow="sm" />
        <Search />
        <SpeedUnit />
        <TurnTheme />
        <WhoAmI />
      </Flex>
    </Box>
  )
}

function Search() {
  const navigate = useNavigate()
  const field = useRef<HTMLInputElement>(null)
  const [text, setText] = useState('')
  useHotkeys(
    '/',
    (event) => {
      event.preventDefault()
      field.current?.focus()
    },
    { useKey: true },
  )
  return (
    <Box
      as="form"
      position="relative"
      hideBelow="md"
      role="search"
      onSubmit={(event) => {
        event.preventDefault()
        void navigate(`/book?text=${encodeURIComponent(text)}`)
      }}
    >
      <Input
        ref={field}
        value={text}
        onChange={(event) => setText(event.currentTarget.value)}
        width="250px"
        height="34px"
        bg="card"
        borderColor="control"
        borderRadius="control"
        placeholder="Find a recipe"
        aria-label="Find a recipe"
        _placeholder={{ color: 'ink3' }}
      />
      <Box position="absolute" right="2" top="6px" pointerEvents="none">
        <Key>/</Key>
      </Box>
    </Box>
  )
}

const SPEED_UNITS = ['mm/s', 'mm/min', 'in/s', 'in/min']

function SpeedUnit() {
  const { units, setUnit } = useShop()
  return (
    <select
      className="plain-select"
      aria-label="My unit of speed"
      value={units.speed ?? 'mm/s'}
      onChange={(event) => setUnit('speed', event.currentTarget.value)}
    >
      {SPEED_UNITS.map((symbol) => (
        <option key={symbol} value={symbol}>
          {unitSign(symbol)}
        </option>
      ))}
    </select>
  )
}

function TurnTheme() {
  const [theme, turn] = useTheme()
  return (
    <Button
      minW="34px"
      height="34px"
      px="0"
      borderColor="transparent"
      bg="transparent"
      aria-label={theme === 'dark' ? 'Light theme' : 'Dark theme'}
      onClick={turn}
    >
      {theme === 'dark' ? <Sun size={18} /> : <Moon size={18} />}
    </Button>
  )
}

function WhoAmI() {
  const { inventory, me } = useShop()
  const pick = usePickMember()
  if (!inventory.shop?.demo) {
    return (
      <NavLink to="/me" className="place" title={`You are ${me.name}, ${me.role}`}>
        {me.name}
      </NavLink>
    )
  }
  return (
    <select
      className="plain-select who"
      aria-label="Who I am"
      value={me.id}
      onChange={(event) => pick.mutate(Number(event.currentTarget.value), { onError: sayFailed })}
    >
      {inventory.members
        .filter((one) => !one.retired)
        .map((member) => (
          <option key={member.id} value={member.id}>
            {member.name} · {member.role}
          </option>
        ))}
    </select>
  )
}
