-- Every request is another person's submission.
local counter, thread = 0, 0
function setup(t) t:set("id", thread); thread = thread + 1 end
function init() math.randomseed(os.time() + id) ; base = tostring(os.time()) .. "-" .. id .. "-" end
function request()
  counter = counter + 1
  local mark = base .. counter
  local body = '{"id":"' .. mark .. '","first_name":"Ines","last_name":"Calloway","email":"' .. mark .. '@example.com","fleet_size":"25+","cargo":"food","start_month":"March","depot_postcode":"QX1 1ZX"}'
  return wrk.format("POST", nil, { ["Content-Type"] = "application/json" }, body)
end
