# A small program to try out how one is coupled: head lost in a line, by Darcy and Weisbach.
{ value[$1] = $2 }
END {
  area = 3.14159265 * value["DIAMETER"] ^ 2 / 4
  velocity = value["DEMAND"] / 1000 / area
  loss = value["FRICTION"] * value["LENGTH"] / value["DIAMETER"] * velocity ^ 2 / 19.62
  printf "velocity %.4f m/s\npressure %.3f m\nDONE\n", velocity, value["LEVEL"] - value["GROUND"] - loss > "listing.txt"
}
