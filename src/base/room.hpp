#pragma once
// Is there room for what a library is about to take? Some spin for ever where they get none.

#include <fmt/format.h>
#include <sys/mman.h>

#include "base/errors.hpp"

namespace dotsift {

/// Throws SolveError if so many bytes of address space cannot be had now; takes none.
inline void ask_for_room(double bytes, const char* what) {
    const auto size = static_cast<std::size_t>(bytes);
    void* room = ::mmap(nullptr, size, PROT_READ | PROT_WRITE, MAP_PRIVATE | MAP_ANONYMOUS | MAP_NORESERVE, -1, 0);
    if (room == MAP_FAILED)
        throw SolveError(fmt::format("not enough memory: {} needs {:.2g} GB", what, bytes / 1e9), {},
                         "ask for larger elements, raise the limit of this process, or use a machine with more memory");
    ::munmap(room, size);
}

}  // namespace dotsift
