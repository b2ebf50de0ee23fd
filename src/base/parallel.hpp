#pragma once
// Independent pieces of work on all cores. Results must not depend on which thread does what.

#include <algorithm>
#include <cstddef>
#include <functional>

namespace dotsift {

/// Calls work(k) for k in [0, count), each once. The first exception is rethrown here. Threads are kept from one call
/// to the next; a call from within such work, or beside another one, does its own work alone.
void share_out(std::size_t count, const std::function<void(std::size_t)>& work);

template <class Work>
void in_parallel(std::size_t count, Work work) {
    share_out(count, std::ref(work));
}

/// Calls work(begin, end) for pieces of [0, count) of a length.
template <class Work>
void in_parallel_pieces(std::size_t count, std::size_t length, Work work) {
    in_parallel((count + length - 1) / length,
                [&](std::size_t k) { work(k * length, std::min(count, (k + 1) * length)); });
}

}  // namespace dotsift
