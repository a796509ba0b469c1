import { EXPIRES_MS, SILENT_MS } from './heartbeat.ts';

/**
 * Rate limiters in Redis, by its own clock: the same rules as in `core/pacing/schedule.ts`, in Lua, since only so a slot is
 * taken in one round trip. All that is kept are numbers.
 *
 * Of each limiter: a hash with its head (`taken`, `closed`, `heard`, ...), a hash of slots by their numbers (`at`, and behind a
 * colon who has still to send it), a sorted set of requests in flight. Of each process a key that expires when its
 * heartbeat ends.
 */
const COMMON = `
redis.replicate_commands()
local clock = redis.call('TIME')
local now = clock[1] * 1000 + math.floor(clock[2] / 1000)
local limiters = cjson.decode(ARGV[1])
local owner = ARGV[2]
local AGAIN = 10

-- A process that was silent for so long is not waited for; what it has in flight stays until its key expires.
local function alive(one)
  return redis.call('PTTL', '{batharon}:process:' .. one) > ${EXPIRES_MS - SILENT_MS}
end

local function head(i)
  local h = redis.call('HMGET', KEYS[2 * i - 1], 'taken', 'closed', 'heard', 'budgets')
  return {
    taken = tonumber(h[1] or 0), closed = tonumber(h[2] or 0), heard = tonumber(h[3] or -1),
    budgets = h[4] and cjson.decode(h[4]) or {},
  }
end

-- When a slot goes or went out, who has still to send it, and whether it was let out already: it counts as sent then, whatever becomes of that process.
local function slot(i, h, number)
  if number < 0 or number >= h.taken or number < h.taken - limiters[i].slots then return nil end
  local text = redis.call('HGET', KEYS[2 * i], number)
  if not text then return nil end
  local at, by, out = string.match(text, '^(%d+):?(%d*)(!?)$')
  return tonumber(at), by ~= '' and by or nil, out == '!'
end

local function put(i, number, at, by)
  redis.call('HSET', KEYS[2 * i], number, by and string.format('%d:%s', at, by) or string.format('%d', at))
end

local function let_out(numbers)
  for i, number in ipairs(numbers) do put(i, number, now, owner .. '!') end
end

local function budget(h, number)
  local until_at, left = 0, nil
  for _, each in ipairs(h.budgets) do
    if number >= each[1] and each[2] > now and each[2] > until_at then until_at, left = each[2], each[3] end
  end
  return until_at, left
end

-- Until when a slot is held back, and why: 1 a server closed the limiter, 2 it has so many left, 3 a window.
local function hold(i, h, number)
  if h.closed > now then return h.closed, 1, 0 end
  local until_at, left = budget(h, number)
  if left then return until_at, 2, left end
  for w, window in ipairs(limiters[i].windows) do
    local before = number - window[1]
    local at, by, out = slot(i, h, before)
    local is_alive = by and alive(by)
    while by and not out and not is_alive do
      before = before - 1
      at, by, out = slot(i, h, before)
      is_alive = by and alive(by)
    end
    if at then
      local free = at + window[2]
      if free > now then return free, 3, w end
      if is_alive then return now + AGAIN, 3, w end
    end
  end
  return nil
end

-- The latest of what holds slots back, as the limiter, milliseconds, and the reason; nothing where they may go out.
local function holds(heads, numbers)
  local found = nil
  for i = 1, #limiters do
    local free, why, about = hold(i, heads[i], numbers[i])
    if free and (not found or free > found[2]) then found = {i, free, why, about} end
  end
  return found
end

-- How long what is kept of a limiter is of use.
local function keep(i)
  local ms = limiters[i].keepMs
  local left = redis.call('PTTL', KEYS[2 * i - 1])
  if left < ms then redis.call('PEXPIRE', KEYS[2 * i - 1], ms) end
  left = redis.call('PTTL', KEYS[2 * i])
  if left < ms then redis.call('PEXPIRE', KEYS[2 * i], ms) end
end

-- What is counted in the present period, where it began and ends. Of q: name, count, and four instants at which periods begin.
local function period(i, q)
  local n = 3
  while n < 5 and q[n + 1] <= now do n = n + 1 end
  local from = q[n]
  local used = redis.call('HMGET', KEYS[2 * i - 1], q[1] .. 'From', q[1] .. 'Used')
  local before = tonumber(used[1] or 0)
  -- Counting never goes back.
  if before > from then from = before end
  return from, before == from and tonumber(used[2] or 0) or 0, q[n + 1]
end
`;

/** Takes the next slot of each limiter: `['spent', limiter, quota, ms]`, `['full', limiter]`, or `['taken', isFree, numbers...]`. */
export const TAKE = `${COMMON}
local token = ARGV[3]
-- A process that stood still for long was taken for gone, and is another one now.
if not alive(owner) then return {'lost'} end
local heads = {}
for i, limiter in ipairs(limiters) do
  heads[i] = head(i)
  for n, q in ipairs(limiter.quotas) do
    local from, used, ends = period(i, q)
    if used >= q[2] then return {'spent', i, n, ends - now} end
  end
end
for i, limiter in ipairs(limiters) do
  if limiter.total > 0 then
    local places = KEYS[2 * #limiters + i]
    local gone = {}
    for _, each in ipairs(redis.call('ZRANGE', places, 0, -1)) do
      if redis.call('EXISTS', '{batharon}:process:' .. string.match(each, '^%d+')) == 0 then gone[#gone + 1] = each end
    end
    if #gone > 0 then redis.call('ZREM', places, unpack(gone)) end
    if redis.call('ZCARD', places) >= limiter.total then return {'full', i} end
  end
end
local at, numbers = now, {}
for i, limiter in ipairs(limiters) do
  local h = heads[i]
  local number = h.taken
  -- A Redis that has just started has lost what it kept of the windows before, where it keeps nothing on its disk.
  if number == 0 and limiter.since > now and h.closed < limiter.since then
    h.closed = limiter.since
    redis.call('HSET', KEYS[2 * i - 1], 'closed', h.closed, 'closedAt', now, 'closedStatus', 0, 'closedFor', h.closed - now)
  end
  at = math.max(at, h.closed, (budget(h, number)))
  for _, window in ipairs(limiter.windows) do
    local before = slot(i, h, number - window[1])
    if before then at = math.max(at, before + window[2]) end
  end
  numbers[i] = number
end
for i, limiter in ipairs(limiters) do
  local key, number = KEYS[2 * i - 1], numbers[i]
  heads[i].taken = number + 1
  redis.call('HSET', key, 'taken', number + 1)
  for _, q in ipairs(limiter.quotas) do
    local from, used = period(i, q)
    redis.call('HSET', key, q[1] .. 'From', from, q[1] .. 'Used', used + 1)
  end
  put(i, number, at, owner)
  redis.call('HDEL', KEYS[2 * i], number - limiter.slots - 1)
  if limiter.total > 0 then redis.call('ZADD', KEYS[2 * #limiters + i], now, owner .. ':' .. token) end
  keep(i)
end
local free = at <= now and not holds(heads, numbers)
if free then let_out(numbers) end
return {'taken', free and 1 or 0, unpack(numbers)}
`;

/** What holds slots back: nothing, or `[limiter, ms, why, about]`. Those that come behind plan by it. */
export const HOLD = `${COMMON}
local numbers = cjson.decode(ARGV[3])
if not alive(owner) then return {'lost'} end
local heads = {}
for i = 1, #limiters do
  heads[i] = head(i)
  local at, by = slot(i, heads[i], numbers[i])
  if by ~= owner then return {'lost'} end
end
local found = holds(heads, numbers)
if not found then
  let_out(numbers)
  return {'free'}
end
for i = 1, #limiters do
  local at = slot(i, heads[i], numbers[i])
  if found[2] > at then put(i, numbers[i], found[2], owner) end
end
return {'held', found[1], found[2] - now, found[3], found[4]}
`;

/** The request of some slots goes out now. */
export const SENT = `${COMMON}
local numbers = cjson.decode(ARGV[3])
for i = 1, #limiters do put(i, numbers[i], now) end
return 1
`;

/** The request of some slots was never sent: what it counted in quotas is given back. */
export const GIVE_BACK = `${COMMON}
local numbers = cjson.decode(ARGV[3])
for i, limiter in ipairs(limiters) do
  put(i, numbers[i], now)
  for _, q in ipairs(limiter.quotas) do
    local _, used = period(i, q)
    if used > 0 then redis.call('HSET', KEYS[2 * i - 1], q[1] .. 'Used', used - 1) end
  end
end
return 1
`;

/** Takes in what a response says of its server's limits: how long it closes the limiter, and what it has left. */
export const HEAR = `${COMMON}
local heard = cjson.decode(ARGV[3])
local key = KEYS[1]
local h = head(1)
if heard.closes and now + heard.closes > h.closed then
  redis.call('HSET', key, 'closed', now + heard.closes, 'closedAt', now, 'closedStatus', heard.status, 'closedFor', heard.closes)
end
local by = heard.slot or math.min(h.taken, heard.first or h.taken) - 1
if by >= h.heard then
  local budgets = {}
  for n, each in ipairs(heard.left) do
    budgets[n] = {by + 1 + math.max(0, each[1] - heard.others), now + each[2], each[1]}
  end
  redis.call('HSET', key, 'heard', by, 'budgets', #budgets > 0 and cjson.encode(budgets) or '[]')
end
local ms = math.max(limiters[1].keepMs, (heard.closes or 0) + 60000)
if redis.call('PTTL', key) < ms then redis.call('PEXPIRE', key, ms) end
return 1
`;

/** All that is known of a limiter: the time, its head, and who has slots to send and requests in flight. */
export const LOOK = `${COMMON}
local fields = redis.call('HGETALL', KEYS[1])
local waiting = {}
for _, text in ipairs(redis.call('HVALS', KEYS[2])) do
  local by = string.match(text, ':(%d+)!?$')
  if by and alive(by) then waiting[#waiting + 1] = by end
end
return {now, fields, waiting, redis.call('ZRANGE', KEYS[3], 0, -1)}
`;

/** Opens a limiter that a server closed, and forgets what it said is left. */
export const OPEN = `
redis.call('HDEL', KEYS[1], 'closed', 'closedAt', 'closedStatus', 'closedFor', 'budgets')
return 1
`;
