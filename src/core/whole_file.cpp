#include "whole_file.h"

#ifdef _WIN32

#include <windows.h>

#include <map>

namespace ensayo {

bool put_in_place(const std::string& part, const std::string& file) {
  return MoveFileExA(part.c_str(), file.c_str(), MOVEFILE_REPLACE_EXISTING | MOVEFILE_WRITE_THROUGH) != 0;
}

namespace {
std::map<int, HANDLE> handles;
}

int take_lock(const std::string& file) {
  const HANDLE handle = CreateFileA(file.c_str(), GENERIC_WRITE, 0, nullptr, OPEN_ALWAYS, FILE_ATTRIBUTE_NORMAL, nullptr);
  if (handle == INVALID_HANDLE_VALUE) return GetLastError() == ERROR_SHARING_VIOLATION ? -1 : -2;
  const int number = handles.empty() ? 1 : handles.rbegin()->first + 1;
  handles[number] = handle;
  return number;
}

void give_lock(int handle) {
  const auto found = handles.find(handle);
  if (found == handles.end()) return;
  CloseHandle(found->second);
  handles.erase(found);
}

}  // namespace ensayo

#else

#include <fcntl.h>
#include <sys/file.h>
#include <unistd.h>

#include <cerrno>
#include <cstdio>

namespace ensayo {

namespace {

bool synced(const std::string& path, int flags) {
  const int handle = open(path.c_str(), flags | O_CLOEXEC);
  if (handle < 0) return false;
  const bool done = fsync(handle) == 0;
  close(handle);
  return done;
}

}  // namespace

bool put_in_place(const std::string& part, const std::string& file) {
  if (!synced(part, O_RDONLY) || std::rename(part.c_str(), file.c_str()) != 0) return false;
  const auto slash = file.find_last_of('/');
  synced(slash == std::string::npos ? "." : file.substr(0, slash + 1), O_RDONLY);  // not every system can
  return true;
}

int take_lock(const std::string& file) {
  const int handle = open(file.c_str(), O_RDWR | O_CREAT | O_CLOEXEC, 0666);
  if (handle < 0) return -2;
  if (flock(handle, LOCK_EX | LOCK_NB) == 0) return handle;
  const int fault = errno;
  close(handle);
  return fault == EWOULDBLOCK ? -1 : -2;
}

void give_lock(int handle) {
  if (handle >= 0) close(handle);
}

}  // namespace ensayo

#endif
