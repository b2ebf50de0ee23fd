#include "part/checks/connected.hpp"

#include <algorithm>
#include <numeric>

namespace dotsift {

std::vector<int> connected_pieces(std::size_t count, const std::vector<std::array<int, 2>>& joined) {
    std::vector<int> piece(count);
    std::iota(piece.begin(), piece.end(), 0);
    for (bool again = true; again;) {
        again = false;
        for (const auto& [one, other] : joined) {
            int &a = piece[static_cast<std::size_t>(one)], &b = piece[static_cast<std::size_t>(other)];
            if (a == b) continue;
            a = b = std::min(a, b);
            again = true;
        }
    }
    std::vector<int> numbers = piece;
    std::sort(numbers.begin(), numbers.end());
    numbers.erase(std::unique(numbers.begin(), numbers.end()), numbers.end());
    for (auto& p : piece) p = static_cast<int>(std::lower_bound(numbers.begin(), numbers.end(), p) - numbers.begin());
    return piece;
}

}  // namespace dotsift
