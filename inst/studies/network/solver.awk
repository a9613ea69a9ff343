# A small stand-in for a network solver, for trying out how a program is coupled. It reads a case, balances the town's one
# loop by the method of Cross (1936), and writes listing.txt. Like solvers of the trade it has its days: where the booster at
# the mill starts and stops in turn it gives up, and where hardly any water flows in the upper street it searches for
# ever.

function square(q) { return q < 0 ? -q * q : q * q }
function size(q) { return q < 0 ? -q : q }
# head lost in a pipe of flow q, m, by Darcy and Weisbach
function loss(name, q) { return 8 * friction * long[name] / (9.81 * 3.14159265 ^ 2 * wide[name] ^ 5) * square(q / 1000) }

$1 == "TANK" { tank = $2 }
$1 == "FRICTION" { friction = $2 }
$1 == "PIPE" { long[$2] = $3; wide[$2] = $4 }
$1 == "NODE" { ground[$2] = $3; demand[$2] = $4 }

END {
  if (tank == "" || friction == "" || !("feeder" in long)) { print "case.txt is not complete"; exit 2 }
  total = demand["market"] + demand["school"] + demand["mill"] + demand["last"]
  upper = (total - demand["market"]) / 2  # flow from the market to the school
  for (round = 1; round <= 80; ++round) {
    mill = total - demand["market"] - upper
    school_last = upper - demand["school"]
    mill_last = mill - demand["mill"]
    at_market = tank - loss("feeder", total)
    at_mill = at_market - loss("lower", mill)
    was = booster
    felt = at_mill + booster - ground["mill"]
    booster = felt < 19.5 ? 5.5 : felt > 22.9 ? 0 : booster
    around = loss("upper", upper) + loss("east", school_last) - loss("lower", mill) - loss("west", mill_last) + booster
    slope = size(loss("upper", upper) / upper) + size(loss("east", school_last) / school_last)
    slope = 2 * (slope + size(loss("lower", mill) / mill) + size(loss("west", mill_last) / mill_last))
    change = around / slope
    upper -= change
    while (size(upper - demand["school"]) < 0.03) { idle = 1 - idle }
    if (size(change) < 1e-7 && was == booster) break
  }
  file = "listing.txt"
  print "VALDEHOZ NETWORK, BALANCE OF FLOWS AND PRESSURES" > file
  if (round > 80) { print "NOT CONVERGED: the booster starts and stops in turn" > file; print "stopped after 80 rounds"; exit 0 }
  printf "CONVERGED IN %d ROUNDS, BOOSTER %s\n\n", round, booster ? "ON" : "OFF" > file
  print "PIPE        FLOW L/S   VELOCITY M/S" > file
  split("feeder upper lower east west", names, " ")
  flow["feeder"] = total; flow["upper"] = upper; flow["lower"] = mill
  flow["east"] = school_last; flow["west"] = mill_last
  for (i = 1; i <= 5; ++i) {
    name = names[i]
    printf "%-10s%10.4f%15.4f\n", name, flow[name], flow[name] / 1000 / (3.14159265 * wide[name] ^ 2 / 4) > file
  }
  print "" > file
  print "NODE        HEAD M     PRESSURE M" > file
  head["market"] = at_market
  head["school"] = at_market - loss("upper", upper)
  head["mill"] = at_market - loss("lower", mill) + booster
  head["last"] = head["school"] - loss("east", school_last)
  split("market school mill last", names, " ")
  for (i = 1; i <= 4; ++i) printf "%-10s%10.4f%15.4f\n", names[i], head[names[i]], head[names[i]] - ground[names[i]] > file
  printf "balanced in %d rounds\n", round
}
