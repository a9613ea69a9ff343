// Files that are whole or not there, whatever happens to the machine; and a lock that goes with its process.
#pragma once

#include <string>

namespace ensayo {

// Brings a written file to the disk and gives it its name. FALSE where either fails.
bool put_in_place(const std::string& part, const std::string& file);

// A lock on a file that is made for it: a handle, -1 where another process has it, -2 where it cannot be made.
int take_lock(const std::string& file);
void give_lock(int handle);

}  // namespace ensayo
