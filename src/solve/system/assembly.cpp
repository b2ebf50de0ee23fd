#include "solve/system/assembly.hpp"

#include <algorithm>
#include <chrono>

#include "base/errors.hpp"
#include "base/parallel.hpp"

namespace dotsift {

namespace {

// Elements of a piece of work: many enough that threads are worth their start, few enough to share out evenly.
constexpr std::size_t piece_size = 512;

/// Unknowns come in groups: those of a node, or one that stands alone. The graph tells which groups meet in the matrix.
struct GroupGraph {
    std::vector<std::int32_t> first_unknown;  ///< of each group; one more
    std::vector<std::int32_t> group_of;       ///< of each unknown
    std::vector<std::int64_t> first;          ///< of each group's neighbours of higher number
    std::vector<std::int32_t> neighbour;
    std::vector<std::int32_t> offset;  ///< of the neighbour's rows in the columns of the group, after its own

    [[nodiscard]] std::int32_t size_of(std::int32_t g) const {
        return first_unknown[static_cast<std::size_t>(g) + 1] - first_unknown[static_cast<std::size_t>(g)];
    }
    [[nodiscard]] std::int32_t offset_of(std::int32_t column, std::int32_t row) const {
        const auto c = static_cast<std::size_t>(column);
        const auto* begin = neighbour.data() + first[c];
        const auto* end = neighbour.data() + first[c + 1];
        return offset[static_cast<std::size_t>(first[c] + (std::lower_bound(begin, end, row) - begin))];
    }
};

/// For each element whether all its degrees of freedom are unknowns, and for each node its group.
class Assembler {
  public:
    Assembler(const Assembly& a, const std::vector<std::vector<double>>& forces) : a_(a), forces_(forces) {}

    System run() {
        System out;
        const auto timed = [](double& seconds, auto work) {
            const auto start = std::chrono::steady_clock::now();
            work();
            seconds = std::chrono::duration<double>(std::chrono::steady_clock::now() - start).count();
        };
        timed(out.pattern_seconds, [&] {
            number_groups();
            find_neighbours();
            set_up_pattern();
        });
        timed(out.numeric_seconds, [&] {
            fill();
            right_sides();
        });
        out.first_unknown.assign(graph_.first_unknown.begin(), graph_.first_unknown.begin() + a_.layout.nodes + 1);
        out.first_of_group = std::move(graph_.first_unknown);
        const auto& kinds = a_.mesh.kinds;
        if (std::any_of(kinds.begin(), kinds.end(), [](ElementKind k) { return dimension_of(k) == 3; }))
            out.order_method = OrderMethod::dissection;
        out.matrix = std::move(matrix_);
        out.right_side = std::move(right_side_);
        return out;
    }

  private:
    void find_dofs(std::size_t e, std::vector<std::int32_t>& dofs) const {
        const auto& l = a_.layout;
        dofs.clear();
        for (auto k = a_.mesh.first[e]; k < a_.mesh.first[e + 1]; ++k)
            for (int c = 0; c < l.components; ++c)
                dofs.push_back(l.dof(l.connectivity[static_cast<std::size_t>(k)], c));
        for (int s = 0; s < l.shared; ++s) dofs.push_back(l.shared_first + s);
    }

    void number_groups() {
        const auto& l = a_.layout;
        const auto& c = a_.constraints;
        graph_.group_of.resize(static_cast<std::size_t>(c.unknowns));
        graph_.first_unknown.reserve(static_cast<std::size_t>(l.nodes) + 1);
        graph_.first_unknown.push_back(0);
        const auto add = [&](std::int32_t first_dof, int count) {
            std::int32_t end = graph_.first_unknown.back();
            for (int i = 0; i < count; ++i)
                if (c.unknown_of(first_dof + i) >= 0)
                    graph_.group_of[static_cast<std::size_t>(end++)] =
                        static_cast<std::int32_t>(graph_.first_unknown.size()) - 1;
            graph_.first_unknown.push_back(end);
        };
        for (std::int32_t n = 0; n < l.nodes; ++n) add(l.dof(n, 0), l.components);
        for (std::int32_t d = l.nodes * l.components; d < l.dofs; ++d) add(d, 1);
        // A node all of whose degrees of freedom are unknowns is plain: its own group holds them in order.
        plain_.assign(static_cast<std::size_t>(l.nodes), 1);
        for (std::int32_t n = 0; n < l.nodes; ++n)
            for (int i = 0; i < l.components; ++i)
                if (c.unknown_of(l.dof(n, i)) < 0) plain_[static_cast<std::size_t>(n)] = 0;
    }

    /// Calls act(group) for every group that an element meets; some more than once.
    template <class Act>
    void each_group(std::span<const std::int32_t> dofs, Act act) const {
        for (const auto d : dofs)
            a_.constraints.each_term(
                d, [&](std::int32_t u, double) { act(graph_.group_of[static_cast<std::size_t>(u)]); });
    }

    void find_neighbours() {
        const auto& l = a_.layout;
        const std::size_t elements = a_.mesh.element_count(), all = elements + a_.joints.size();
        const std::size_t groups = graph_.first_unknown.size() - 1;
        // Groups of each element, then elements of each group.
        std::vector<std::int64_t> first_group{0};
        first_group.reserve(all + 1);
        std::vector<std::int32_t> group_list;
        group_list.reserve(l.connectivity.size());
        std::vector<std::int32_t> here, dofs;
        std::vector<std::int64_t> count(groups + 1, 0);
        for (std::size_t e = 0; e < all; ++e) {
            here.clear();
            bool plain = e < elements && l.shared == 0;
            if (plain)
                for (auto k = a_.mesh.first[e]; k < a_.mesh.first[e + 1]; ++k) {
                    const auto n = l.connectivity[static_cast<std::size_t>(k)];
                    plain = plain && plain_[static_cast<std::size_t>(n)];
                    here.push_back(n);
                }
            if (!plain) {
                here.clear();
                if (e < elements) find_dofs(e, dofs);
                each_group(e < elements ? dofs : a_.joints[e - elements].dofs,
                           [&](std::int32_t g) { here.push_back(g); });
                std::sort(here.begin(), here.end());
                here.erase(std::unique(here.begin(), here.end()), here.end());
            }
            for (const auto g : here) ++count[static_cast<std::size_t>(g) + 1];
            group_list.insert(group_list.end(), here.begin(), here.end());
            first_group.push_back(static_cast<std::int64_t>(group_list.size()));
        }
        for (std::size_t g = 0; g < groups; ++g) count[g + 1] += count[g];
        std::vector<std::int64_t> next(count.begin(), count.end() - 1);
        std::vector<std::int32_t> element_list(group_list.size());
        for (std::size_t e = 0; e < all; ++e)
            for (auto k = first_group[e]; k < first_group[e + 1]; ++k)
                element_list[static_cast<std::size_t>(
                    next[static_cast<std::size_t>(group_list[static_cast<std::size_t>(k)])]++)] =
                    static_cast<std::int32_t>(e);
        // Neighbours of each group, by blocks of groups at a time on all threads.
        constexpr std::size_t block = 8192;
        const std::size_t blocks = (groups + block - 1) / block;
        struct Found {
            std::vector<std::int32_t> neighbour, offset;
            std::vector<std::int32_t> count;
        };
        std::vector<Found> found(blocks);
        in_parallel(blocks, [&](std::size_t b) {
            Found& f = found[b];
            std::vector<std::int32_t> list;
            const std::size_t end = std::min(groups, (b + 1) * block);
            for (std::size_t g = b * block; g < end; ++g) {
                list.clear();
                for (auto k = count[g]; k < count[g + 1]; ++k) {
                    const auto e = static_cast<std::size_t>(element_list[static_cast<std::size_t>(k)]);
                    for (auto m = first_group[e]; m < first_group[e + 1]; ++m) {
                        const auto other = group_list[static_cast<std::size_t>(m)];
                        if (static_cast<std::size_t>(other) > g) list.push_back(other);
                    }
                }
                std::sort(list.begin(), list.end());
                list.erase(std::unique(list.begin(), list.end()), list.end());
                std::int32_t offset = 0;
                for (const auto o : list) {
                    f.neighbour.push_back(o);
                    f.offset.push_back(offset);
                    offset += graph_.size_of(o);
                }
                f.count.push_back(static_cast<std::int32_t>(list.size()));
            }
        });
        graph_.first.reserve(groups + 1);
        graph_.first.push_back(0);
        for (auto& f : found) {
            for (const auto n : f.count) graph_.first.push_back(graph_.first.back() + n);
            graph_.neighbour.insert(graph_.neighbour.end(), f.neighbour.begin(), f.neighbour.end());
            graph_.offset.insert(graph_.offset.end(), f.offset.begin(), f.offset.end());
            f = {};
        }
    }

    void set_up_pattern() {
        const std::size_t groups = graph_.first_unknown.size() - 1;
        auto& m = matrix_;
        m.size = a_.constraints.unknowns;
        m.column_first.assign(1, 0);
        m.column_first.reserve(static_cast<std::size_t>(m.size) + 1);
        std::int64_t count = 0;
        for (std::size_t g = 0; g < groups; ++g) {
            const auto own = graph_.size_of(static_cast<std::int32_t>(g));
            std::int32_t below = 0;
            if (graph_.first[g] < graph_.first[g + 1]) {
                const auto last = static_cast<std::size_t>(graph_.first[g + 1] - 1);
                below = graph_.offset[last] + graph_.size_of(graph_.neighbour[last]);
            }
            for (int c = 0; c < own; ++c) {
                count += own - c + below;
                if (count > INT32_MAX)
                    throw SolveError("the system has more than 2^31 entries", {}, "ask for larger elements");
                m.column_first.push_back(static_cast<std::int32_t>(count));
            }
        }
        m.row.resize(static_cast<std::size_t>(count));
        m.value.resize(static_cast<std::size_t>(count));
        constexpr std::size_t block = 8192;
        in_parallel((groups + block - 1) / block, [&](std::size_t b) {
            const std::size_t end = std::min(groups, (b + 1) * block);
            for (std::size_t g = b * block; g < end; ++g) {
                const auto u = graph_.first_unknown[g], own = graph_.size_of(static_cast<std::int32_t>(g));
                for (int c = 0; c < own; ++c) {
                    const auto column = static_cast<std::size_t>(u + c);
                    std::fill(m.value.begin() + m.column_first[column], m.value.begin() + m.column_first[column + 1],
                              0.0);
                    auto at = static_cast<std::size_t>(m.column_first[column]);
                    for (int a = c; a < own; ++a) m.row[at++] = u + a;
                    for (auto k = graph_.first[g]; k < graph_.first[g + 1]; ++k) {
                        const auto n = graph_.neighbour[static_cast<std::size_t>(k)];
                        const auto v = graph_.first_unknown[static_cast<std::size_t>(n)];
                        for (int a = 0; a < graph_.size_of(n); ++a) m.row[at++] = v + a;
                    }
                }
            }
        });
    }

    /// Where the entry of this row and column (row >= column) is.
    [[nodiscard]] std::size_t entry(std::int32_t row, std::int32_t column) const {
        const auto gr = graph_.group_of[static_cast<std::size_t>(row)],
                   gc = graph_.group_of[static_cast<std::size_t>(column)];
        const auto begin = static_cast<std::size_t>(matrix_.column_first[static_cast<std::size_t>(column)]);
        if (gr == gc) return begin + static_cast<std::size_t>(row - column);
        const auto own_end = graph_.first_unknown[static_cast<std::size_t>(gc) + 1];
        return begin + static_cast<std::size_t>(own_end - column + graph_.offset_of(gc, gr) + row -
                                                graph_.first_unknown[static_cast<std::size_t>(gr)]);
    }

    /// Adds a matrix whose degrees of freedom may be expressions. at(i, j) is its entry for i >= j.
    template <class At>
    void add_general(std::span<const std::int32_t> dofs, At at) {
        const auto& c = a_.constraints;
        for (std::size_t i = 0; i < dofs.size(); ++i)
            for (std::size_t j = 0; j < dofs.size(); ++j) {
                const double k = i >= j ? at(i, j) : at(j, i);
                if (k == 0) continue;
                c.each_term(dofs[i], [&](std::int32_t ui, double ci) {
                    c.each_term(dofs[j], [&](std::int32_t uj, double cj) {
                        if (ui >= uj) matrix_.value[entry(ui, uj)] += ci * k * cj;
                    });
                });
                if (!c.has_given()) continue;
                for (std::size_t s = 0; s < c.cases; ++s) {
                    const double g = c.given(dofs[j], s);
                    if (g == 0) continue;
                    c.each_term(dofs[i], [&](std::int32_t ui, double ci) {
                        right_side_[s][static_cast<std::size_t>(ui)] -= ci * k * g;
                    });
                }
            }
    }

    /// Adds an element all of whose nodes are plain.
    template <int components>
    void add_plain(std::size_t e, const ElementMatrix& k) {
        const auto begin = a_.mesh.first[e];
        const auto count = static_cast<std::size_t>(a_.mesh.first[e + 1] - begin);
        const auto* nodes = a_.layout.connectivity.data() + begin;
        constexpr auto c = static_cast<std::size_t>(components);
        for (std::size_t j = 0; j < count; ++j)
            for (std::size_t i = 0; i < count; ++i) {
                if (nodes[i] < nodes[j]) continue;
                const auto u = static_cast<std::size_t>(graph_.first_unknown[static_cast<std::size_t>(nodes[j])]);
                if (i == j) {
                    for (std::size_t b = 0; b < c; ++b) {
                        auto* column = matrix_.value.data() + matrix_.column_first[u + b];
                        for (std::size_t a = b; a < c; ++a) column[a - b] += k(i * c + a, j * c + b);
                    }
                    continue;
                }
                const auto offset = static_cast<std::size_t>(graph_.offset_of(nodes[j], nodes[i]));
                for (std::size_t b = 0; b < c; ++b) {
                    auto* column = matrix_.value.data() + matrix_.column_first[u + b] + (c - b) + offset;
                    for (std::size_t a = 0; a < c; ++a) column[a] += k.of(i * c + a, j * c + b);
                }
            }
    }

    void add_element(std::size_t e, ElementMatrix& k) {
        a_.element_matrix(e, k);
        const auto& l = a_.layout;
        bool plain = l.shared == 0;
        for (auto i = a_.mesh.first[e]; plain && i < a_.mesh.first[e + 1]; ++i)
            plain = plain_[static_cast<std::size_t>(l.connectivity[static_cast<std::size_t>(i)])];
        if (plain && l.components == 1) return add_plain<1>(e, k);
        if (plain && l.components == 2) return add_plain<2>(e, k);
        if (plain && l.components == 3) return add_plain<3>(e, k);
        waiting_[e] = 1;
    }

    void add_special(std::size_t e, ElementMatrix& k) {
        a_.element_matrix(e, k);
        std::vector<std::int32_t> dofs;
        find_dofs(e, dofs);
        add_general(dofs, [&](std::size_t i, std::size_t j) { return k(i, j); });
    }

    void fill() {
        right_side_.assign(a_.constraints.cases,
                           std::vector<double>(static_cast<std::size_t>(a_.constraints.unknowns), 0.0));
        waiting_.assign(a_.mesh.element_count(), 0);
        const ColouredPieces pieces = coloured_pieces(a_.mesh, a_.node_count);
        for (const auto& colour : pieces.colours)
            in_parallel(colour.size(), [&](std::size_t p) {
                ElementMatrix k;
                for (std::size_t e = colour[p].begin; e < colour[p].end; ++e) add_element(e, k);
            });
        // Elements with supported nodes are few, and may reach far: they come one by one.
        ElementMatrix k;
        for (std::size_t e = 0; e < waiting_.size(); ++e)
            if (waiting_[e]) add_special(e, k);
        for (const auto& j : a_.joints) {
            const std::size_t n = j.dofs.size();
            add_general(j.dofs, [&](std::size_t r, std::size_t c) { return j.matrix[r * n + c]; });
        }
    }

    void right_sides() {
        for (std::size_t s = 0; s < right_side_.size(); ++s)
            for (std::int32_t d = 0; d < a_.layout.dofs; ++d) {
                const double f = forces_[s][static_cast<std::size_t>(d)];
                if (f == 0) continue;
                a_.constraints.each_term(
                    d, [&](std::int32_t u, double c) { right_side_[s][static_cast<std::size_t>(u)] += c * f; });
            }
    }

    const Assembly& a_;
    const std::vector<std::vector<double>>& forces_;
    GroupGraph graph_;
    std::vector<char> plain_;    ///< of each node
    std::vector<char> waiting_;  ///< elements that are added one by one
    SymmetricMatrix matrix_;
    std::vector<std::vector<double>> right_side_;
};

}  // namespace

ColouredPieces coloured_pieces(const Topology& mesh, std::size_t nodes) {
    const std::size_t pieces = (mesh.element_count() + piece_size - 1) / piece_size;
    ColouredPieces out;
    // Greedy, by bits of the colours that a node's pieces have already.
    std::vector<std::uint64_t> taken(nodes, 0);
    for (std::size_t p = 0; p < pieces; ++p) {
        const std::size_t begin = p * piece_size, end = std::min(mesh.element_count(), begin + piece_size);
        std::uint64_t used = 0;
        for (auto k = mesh.first[begin]; k < mesh.first[end]; ++k)
            used |= taken[static_cast<std::size_t>(mesh.connectivity[static_cast<std::size_t>(k)])];
        std::size_t colour = 0;
        while (colour < 63 && (used >> colour & 1U)) ++colour;
        for (auto k = mesh.first[begin]; k < mesh.first[end]; ++k)
            taken[static_cast<std::size_t>(mesh.connectivity[static_cast<std::size_t>(k)])] |= std::uint64_t{1}
                                                                                               << colour;
        if (colour == 63) {  // pieces that meet everywhere: each is a colour of its own
            out.colours.push_back({{begin, end}});
            continue;
        }
        while (out.colours.size() <= colour) out.colours.emplace_back();
        out.colours[colour].push_back({begin, end});
    }
    return out;
}

std::vector<std::int32_t> System::order() const {
    // Ordering the graph of the groups and expanding it is a quarter of the work of ordering the unknowns. Groups that
    // meet do so with all their unknowns: the last one of a group tells which.
    std::vector<std::int32_t> group_of(static_cast<std::size_t>(matrix.size));
    const std::size_t groups = first_of_group.size() - 1;
    for (std::size_t g = 0; g < groups; ++g)
        std::fill(group_of.begin() + first_of_group[g], group_of.begin() + first_of_group[g + 1],
                  static_cast<std::int32_t>(g));
    SymmetricMatrix graph;
    graph.size = static_cast<std::int32_t>(groups);
    graph.column_first.reserve(groups + 1);
    graph.column_first.push_back(0);
    for (std::size_t g = 0; g < groups; ++g) {
        if (first_of_group[g] < first_of_group[g + 1]) {
            const auto last = static_cast<std::size_t>(first_of_group[g + 1] - 1);
            std::int32_t before = static_cast<std::int32_t>(g);
            for (auto k = matrix.column_first[last]; k < matrix.column_first[last + 1]; ++k) {
                const std::int32_t other = group_of[static_cast<std::size_t>(matrix.row[static_cast<std::size_t>(k)])];
                if (other != before) graph.row.push_back(other);
                before = other;
            }
        }
        graph.column_first.push_back(static_cast<std::int32_t>(graph.row.size()));
    }
    group_of = {};
    std::vector<std::int32_t> out;
    out.reserve(static_cast<std::size_t>(matrix.size));
    for (const auto g : fill_reducing_order(graph, order_method))
        for (auto u = first_of_group[static_cast<std::size_t>(g)]; u < first_of_group[static_cast<std::size_t>(g) + 1];
             ++u)
            out.push_back(u);
    return out;
}

System assemble(const Assembly& assembly, const std::vector<std::vector<double>>& forces) {
    return Assembler(assembly, forces).run();
}

}  // namespace dotsift
