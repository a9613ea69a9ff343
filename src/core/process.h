// Processes: a command in a folder, with files for what it reads and writes, as the leader of a group of its own.
#pragma once

#include <string>
#include <vector>

namespace ensayo {

struct Command {
  std::vector<std::string> words;        // the program's path and its arguments
  std::vector<std::string> environment;  // NAME=value, all of them
  std::string folder;
  std::string input, output, errors;     // files; nothing is read where `input` is empty
};

// The process's number, or minus the system's error number where it could not be started.
int start_process(const Command& command);

// Waits up to `seconds`: the exit status, 128 and the signal's number for one that was ended by a signal, or -1 where it
// still runs.
int wait_for_process(int process, double seconds);

// Ends what is left of the group that a process leads or led; whether anything was.
bool end_process_group(int leader);

}  // namespace ensayo
