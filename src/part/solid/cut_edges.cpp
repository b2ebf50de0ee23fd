#include "part/solid/cut_edges.hpp"

namespace dotsift {

Part cut_edges(Part part, const std::function<int(const PartEdge&)>& pieces) {
    const std::size_t count = part.edges.size();
    std::vector<std::vector<int>> more(count);  // what follows each edge
    for (std::size_t e = 0; e < count; ++e) {
        const PartEdge whole = part.edges[e];
        const int wanted = pieces(whole);
        for (int k = 0; k < wanted && wanted > 1; ++k) {
            PartEdge piece = whole;
            piece.curve = whole.curve.piece(static_cast<double>(k) / wanted, (k + 1.0) / wanted);
            if (k > 0) piece.start = static_cast<int>(part.vertices.size()) - 1;
            if (k + 1 < wanted) {
                piece.end = static_cast<int>(part.vertices.size());
                part.vertices.push_back(piece.curve.end());
            }
            piece.curve.set_ends(part.vertex(piece.start), part.vertex(piece.end));
            if (k == 0) {
                part.edges[e] = std::move(piece);
            } else {
                more[e].push_back(static_cast<int>(part.edges.size()));
                part.edges.push_back(std::move(piece));
            }
        }
    }
    for (auto& face : part.faces)
        for (auto& loop : face.loops) {
            std::vector<EdgeUse> uses;
            for (const EdgeUse& use : loop) {
                const auto& others = more[static_cast<std::size_t>(use.edge)];
                if (!use.forward)
                    for (auto o = others.rbegin(); o != others.rend(); ++o) uses.push_back({*o, false});
                uses.push_back(use);
                if (use.forward)
                    for (const int o : others) uses.push_back({o, true});
            }
            loop = std::move(uses);
        }
    return part;
}

Part without_closed_edges(Part part) {
    constexpr int enough = 3;  // so that no face goes all round
    return cut_edges(std::move(part), [](const PartEdge& e) { return e.curve.closed() ? enough : 1; });
}

}  // namespace dotsift
