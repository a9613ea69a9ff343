# How often each room of R/ (rows) calls each other one (columns), in the order of docs/rooms.md; then the calls to a
# later room, of which there are none.
source("tests/testthat/helper-rooms.R")
rooms <- rooms_in_order(".")
bodies <- named_in_files(".")
calls <- calls_between_files(bodies)
print(table(from = factor(room_of_file(calls$from), rooms), to = factor(room_of_file(calls$to), rooms)), zero.print = ".")
later <- later_calls(bodies, rooms)
cat(sprintf("\n%d calls between files, %d to a later room\n", nrow(calls), nrow(later)))
if (nrow(later)) print(later, row.names = FALSE)
