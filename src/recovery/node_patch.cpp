#include "recovery/node_patch.hpp"

#include <algorithm>
#include <cmath>

#include "base/parallel.hpp"

namespace dotsift {

namespace {
constexpr std::size_t piece = 4096;  // elements whose sizes are worth a thread's while
}

CornerElements::CornerElements(const Mesh& mesh)
    : mesh_(mesh), first_(mesh.node_of_slot.size() + 1, 0), sizes_(mesh.element_count()) {
    for (std::size_t e = 0; e < mesh.element_count(); ++e)
        for (const auto s : corners_of(e)) ++first_[static_cast<std::size_t>(s) + 1];
    for (std::size_t s = 1; s < first_.size(); ++s) first_[s] += first_[s - 1];
    elements_.resize(static_cast<std::size_t>(first_.back()));
    auto next = first_;
    for (std::size_t e = 0; e < mesh.element_count(); ++e)
        for (const auto s : corners_of(e))
            elements_[static_cast<std::size_t>(next[static_cast<std::size_t>(s)]++)] = static_cast<std::int32_t>(e);
    in_parallel_pieces(mesh.element_count(), piece, [&](std::size_t begin, std::size_t end) {
        for (std::size_t e = begin; e < end; ++e) sizes_[e] = mesh.size_of(e);
    });
}

void MetNumbers::begin(std::span<const std::int32_t> numbers) {
    all_.assign(numbers.begin(), numbers.end());
    table_filled_ = false;
}

std::uint32_t MetNumbers::place_of(std::int32_t number) const {
    auto at = static_cast<std::uint32_t>(number) * 2654435769U >> 24;
    while (table_[at] >= 0 && table_[at] != number) at = (at + 1) % static_cast<std::uint32_t>(table_.size());
    return at;
}

void MetNumbers::add(std::int32_t number) {
    if (all_.size() >= table_.size() / 2) {
        if (std::find(all_.begin(), all_.end(), number) == all_.end()) all_.push_back(number);
        return;
    }
    if (!table_filled_) {
        table_filled_ = true;
        table_.fill(-1);
        for (const auto n : all_) table_[place_of(n)] = n;
    }
    auto& at = table_[place_of(number)];
    if (at == number) return;
    at = number;
    all_.push_back(number);
}

void NodePatch::begin(std::int32_t corner) {
    corner_ = corner;
    elements_.begin(around_.of(corner));
    beside_.clear();
    for (const auto e : elements()) {
        const auto list = around_.corners_of(static_cast<std::size_t>(e));
        std::size_t c = 0;
        while (list[c] != corner) ++c;
        beside_.push_back({list[c == 0 ? list.size() - 1 : c - 1], list[c + 1 == list.size() ? 0 : c + 1]});
    }
    closed_ = std::all_of(beside_.begin(), beside_.end(), [&](const Beside& e) {
        return std::any_of(beside_.begin(), beside_.end(), [&](const Beside& o) { return o.after == e.before; });
    });
    if (closed_) {
        slots_.begin(ring());
    } else {
        slots_.begin({});
        add_slots(0);
    }
}

const std::vector<std::int32_t>& NodePatch::ring() {
    ring_.assign(1, corner_);
    for (std::size_t k = 0; k < beside_.size(); ++k) {
        const auto e = static_cast<std::size_t>(elements()[k]);
        const auto list = around_.mesh().slots_of(e);
        const auto corners = around_.corners_of(e).size();
        std::size_t shared = 0;  // the side between the corner before and this one
        while (list[shared] != beside_[k].before) ++shared;
        for (std::size_t i = 0; i < list.size(); ++i)
            if (list[i] != corner_ && i != shared && i != shared + corners) ring_.push_back(list[i]);
    }
    return ring_;
}

bool NodePatch::grow() {
    const std::size_t old_elements = elements().size(), old_slots = slots().size();
    for (std::size_t k = 0; k < old_slots; ++k)
        for (const auto e : around_.of(slots()[k])) elements_.add(e);
    add_slots(old_elements);
    return elements().size() > old_elements;
}

void NodePatch::add_slots(std::size_t from) {
    for (std::size_t k = from; k < elements().size(); ++k)
        for (const auto s : around_.mesh().slots_of(static_cast<std::size_t>(elements()[k]))) slots_.add(s);
}

double NodePatch::mean_size() const {
    double sum = 0;
    const auto own = around_.of(corner_);
    for (const auto e : own) sum += around_.size_of(e);
    return sum / static_cast<double>(own.size());
}

bool NodePatch::all_triangles() const {
    const auto own = around_.of(corner_);
    return std::all_of(own.begin(), own.end(), [&](std::int32_t e) {
        return corner_count(around_.mesh().kinds[static_cast<std::size_t>(e)]) == 3;
    });
}

double NodePatch::angle() const {
    const Mesh& mesh = around_.mesh();
    const auto position = [&](std::int32_t slot) {
        return mesh.nodes[static_cast<std::size_t>(mesh.node_of_slot[static_cast<std::size_t>(slot)])];
    };
    double sum = 0;
    for (const auto& [before, after] : beside_) {
        const Vec2 a = position(after) - position(corner_), b = position(before) - position(corner_);
        sum += std::atan2(cross(a, b), dot(a, b));
    }
    return sum;
}

}  // namespace dotsift
