#include "process.h"

#ifdef _WIN32

namespace ensayo {
int start_process(const Command&) { return -1; }
int wait_for_process(int, double) { return -1; }
bool end_process_group(int) { return false; }
}  // namespace ensayo

#else

#include <fcntl.h>
#include <signal.h>
#include <spawn.h>
#include <sys/wait.h>

#include <algorithm>
#include <cerrno>
#include <chrono>
#include <thread>

namespace ensayo {

namespace {

std::vector<char*> pointers(const std::vector<std::string>& texts) {
  std::vector<char*> out;
  for (const std::string& text : texts) out.push_back(const_cast<char*>(text.c_str()));
  out.push_back(nullptr);
  return out;
}

}  // namespace

int start_process(const Command& command) {
  posix_spawn_file_actions_t files;
  posix_spawnattr_t attributes;
  posix_spawn_file_actions_init(&files);
  posix_spawnattr_init(&attributes);
  // files have whole paths, and are opened before the folder is entered or after: both are the same
  const std::string& input = command.input.empty() ? "/dev/null" : command.input;
  posix_spawn_file_actions_addopen(&files, 0, input.c_str(), O_RDONLY, 0);
  posix_spawn_file_actions_addopen(&files, 1, command.output.c_str(), O_WRONLY | O_CREAT | O_TRUNC, 0666);
  posix_spawn_file_actions_addopen(&files, 2, command.errors.c_str(), O_WRONLY | O_CREAT | O_TRUNC, 0666);
  posix_spawn_file_actions_addchdir_np(&files, command.folder.c_str());
#if defined(__GLIBC__) && (__GLIBC__ > 2 || (__GLIBC__ == 2 && __GLIBC_MINOR__ >= 34))
  posix_spawn_file_actions_addclosefrom_np(&files, 3);
#endif
  // R ignores or catches some signals; a program begins with none of that
  sigset_t none, all;
  sigemptyset(&none);
  sigfillset(&all);
  posix_spawnattr_setsigmask(&attributes, &none);
  posix_spawnattr_setsigdefault(&attributes, &all);
  posix_spawnattr_setflags(&attributes, POSIX_SPAWN_SETSID | POSIX_SPAWN_SETSIGMASK | POSIX_SPAWN_SETSIGDEF);
  pid_t process = 0;
  const auto words = pointers(command.words);
  const auto environment = pointers(command.environment);
  const int fault = posix_spawn(&process, words[0], &files, &attributes, words.data(), environment.data());
  posix_spawn_file_actions_destroy(&files);
  posix_spawnattr_destroy(&attributes);
  return fault ? -fault : static_cast<int>(process);
}

int wait_for_process(int process, double seconds) {
  using clock = std::chrono::steady_clock;
  const auto began = clock::now();
  for (;;) {
    int status = 0;
    const pid_t ended = waitpid(process, &status, WNOHANG);
    if (ended == process) return WIFEXITED(status) ? WEXITSTATUS(status) : 128 + WTERMSIG(status);
    if (ended < 0 && errno != EINTR) return 127;  // someone else has its status
    const double waited = std::chrono::duration<double>(clock::now() - began).count();
    if (waited >= seconds) return -1;
    // a twentieth of the time waited so far is lost at the most
    const double pause = std::min({std::max(waited / 20, 5e-5), 1e-2, seconds - waited});
    std::this_thread::sleep_for(std::chrono::duration<double>(pause));
  }
}

bool end_process_group(int leader) { return leader > 1 && kill(-leader, SIGKILL) == 0; }

}  // namespace ensayo

#endif
