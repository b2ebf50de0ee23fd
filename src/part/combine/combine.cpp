#include "part/combine/combine.hpp"

#include <algorithm>
#include <array>
#include <cmath>
#include <map>
#include <unordered_map>

#include "base/errors.hpp"
#include "part/combine/arrangement.hpp"
#include "part/combine/split.hpp"

namespace dotsift {

namespace {

/// One curve of one step, before it is cut.
struct Drawn {
    int step, outline;  ///< outlines are counted through all steps; -1 for lines, which enclose nothing
    const std::vector<std::string>* names;
};

class Combination {
  public:
    Combination(const std::vector<CombineStep>& steps, const std::vector<std::string>& known) : steps_(steps) {
        out_.part.regions = known;
        out_.traces.resize(steps.size());
    }

    Combined run() {
        draw();
        SplitCurves split = split_curves(std::move(curves_), loop_);
        vertices_ = std::move(split.vertices);
        pieces_ = std::move(split.pieces);
        place_spots();
        std::vector<PlanarEdge> edges;
        for (const auto& p : pieces_) edges.push_back({p.curve, p.start, p.end});
        const PlanarFaces faces = trace_faces(vertices_, edges);
        play(faces);
        keep_edges(faces);
        join_edges();
        build();
        return std::move(out_);
    }

  private:
    void draw() {
        int loops = 0;
        for (std::size_t s = 0; s < steps_.size(); ++s) {
            const bool line = steps_[s].kind == CombineStep::Kind::line;
            for (const auto& copy : steps_[s].copies) {
                if (!line) outlines_of_step_.resize(s + 1);
                const int outline = line ? -1 : outline_count_++;
                if (!line) outlines_of_step_[s].push_back(outline);
                for (const auto& chain : copy.loops) {
                    for (const auto& c : chain) {
                        curves_.push_back(c.curve);
                        drawn_.push_back({static_cast<int>(s), outline, &c.names});
                        loop_.push_back(loops);
                    }
                    ++loops;
                }
            }
        }
        outlines_of_step_.resize(steps_.size());
        carriers_ = curves_;
    }

    /// Makes the wanted points vertices; one on an edge cuts it.
    void place_spots() {
        Box2 box;
        for (const auto& v : vertices_) box.add(v);
        for (const auto& p : pieces_) box.add(p.curve.box());
        weld_ = weld_share * box.diagonal();
        const double weld = weld_;
        for (std::size_t s = 0; s < steps_.size(); ++s) {
            for (const auto& spot : steps_[s].spots) {
                int vertex = -1;
                for (std::size_t v = 0; v < vertices_.size() && vertex < 0; ++v)
                    if (distance(vertices_[v], spot.at) <= 2 * weld) vertex = static_cast<int>(v);
                if (vertex < 0) {
                    vertex = static_cast<int>(vertices_.size());
                    vertices_.push_back(spot.at);
                    for (std::size_t i = 0, n = pieces_.size(); i < n; ++i) {
                        if (pieces_[i].curve.box().distance_to(spot.at) > 2 * weld) continue;
                        const double t = pieces_[i].curve.project(spot.at);
                        if (distance(pieces_[i].curve.point(t), spot.at) > 2 * weld) continue;
                        SplitPiece rest = pieces_[i];
                        rest.curve = rest.curve.piece(t, 1);
                        rest.curve.set_ends(spot.at, rest.curve.end());
                        rest.start = vertex;
                        pieces_[i].curve = pieces_[i].curve.piece(0, t);
                        pieces_[i].curve.set_ends(pieces_[i].curve.start(), spot.at);
                        pieces_[i].end = vertex;
                        pieces_.push_back(std::move(rest));
                    }
                }
                spots_.push_back({static_cast<int>(s), vertex, spot.name});
            }
        }
    }

    /// Which outlines contain each face: crossing an edge goes in or out of every outline that it belongs to.
    std::vector<std::vector<bool>> memberships(const PlanarFaces& faces) const {
        std::vector<std::vector<std::pair<int, std::size_t>>> neighbours(faces.loops.size());
        for (std::size_t p = 0; p < pieces_.size(); ++p) {
            const int l = faces.face_of_side[2 * p], r = faces.face_of_side[2 * p + 1];
            neighbours[static_cast<std::size_t>(l)].emplace_back(r, p);
            neighbours[static_cast<std::size_t>(r)].emplace_back(l, p);
        }
        std::vector<std::vector<bool>> in(faces.loops.size());
        std::vector<char> reached(faces.loops.size(), 0);
        in[0].assign(static_cast<std::size_t>(outline_count_), false);
        reached[0] = 1;
        std::vector<int> open{0};
        while (!open.empty()) {
            const auto f = static_cast<std::size_t>(open.back());
            open.pop_back();
            for (const auto& [g, p] : neighbours[f]) {
                std::vector<bool> there = in[f];
                for (const int c : pieces_[p].origin) {
                    const int outline = drawn_[static_cast<std::size_t>(c)].outline;
                    if (outline >= 0) there[static_cast<std::size_t>(outline)].flip();
                }
                const auto at = static_cast<std::size_t>(g);
                if (!reached[at]) {
                    reached[at] = 1;
                    in[at] = std::move(there);
                    open.push_back(g);
                } else if (in[at] != there) {
                    // Two ways to the same face disagree: the graph is not what was drawn.
                    Place place;
                    place.position = pieces_[p].curve.point(0.5);
                    throw InputError("the shapes cannot be combined: near this point it is not clear which is inside",
                                     place, "move the shapes so that they do not just touch");
                }
            }
        }
        return in;
    }

    void play(const PlanarFaces& faces) {
        const auto in = memberships(faces);
        std::vector<Owned> owned(faces.loops.size());
        for (std::size_t s = 0; s < steps_.size(); ++s) {
            const auto& step = steps_[s];
            if (step.kind == CombineStep::Kind::line) continue;
            const int region = step.kind == CombineStep::Kind::add ? out_.part.region_index(step.region) : -1;
            for (std::size_t f = 1; f < owned.size(); ++f) {
                const bool inside = std::any_of(outlines_of_step_[s].begin(), outlines_of_step_[s].end(),
                                                [&](int o) { return in[f][static_cast<std::size_t>(o)]; });
                const int now = owned[f].region;
                const bool concerned = step.of.empty() || (now >= 0 && fits(now, step.of));
                if (dotsift::play(step, region, inside, concerned, owned[f])) out_.traces[s].changed = true;
            }
        }
        for (const Owned& o : owned) region_.push_back(o.region);
    }

    [[nodiscard]] bool fits(int region, const std::vector<std::string>& patterns) const {
        const auto& name = out_.part.regions[static_cast<std::size_t>(region)];
        return fits_any(name, patterns);
    }

    void keep_edges(const PlanarFaces& faces) {
        for (std::size_t p = 0; p < pieces_.size(); ++p) {
            const int l = region_[static_cast<std::size_t>(faces.face_of_side[2 * p])],
                      r = region_[static_cast<std::size_t>(faces.face_of_side[2 * p + 1])];
            if (l < 0 && r < 0) continue;
            const auto& origin = pieces_[p].origin;
            const bool line = std::any_of(origin.begin(), origin.end(), [&](int c) {
                return steps_[static_cast<std::size_t>(drawn_[static_cast<std::size_t>(c)].step)].kind ==
                       CombineStep::Kind::line;
            });
            if (l == r && !line) continue;
            Kept k{pieces_[p], l, r};
            if (l < 0 || (r >= 0 && l > r)) {  // the region that comes first lies on the left
                k.piece.curve = k.piece.curve.reversed();
                std::swap(k.piece.start, k.piece.end);
                std::swap(k.left, k.right);
            }
            for (const int c : origin)
                out_.traces[static_cast<std::size_t>(drawn_[static_cast<std::size_t>(c)].step)].on_outline = true;
            kept_.push_back(std::move(k));
        }
    }

    /// Pieces of one curve that follow each other with nothing between them become one again. Ends that were drawn
    /// stay.
    void join_edges() {
        std::vector<std::array<int, 2>> users(vertices_.size(), {-1, -1});
        std::vector<int> degree(vertices_.size(), 0);
        for (std::size_t k = 0; k < kept_.size(); ++k)
            for (const int v : {kept_[k].piece.start, kept_[k].piece.end}) {
                const auto i = static_cast<std::size_t>(v);
                if (degree[i] < 2) users[i][static_cast<std::size_t>(degree[i])] = static_cast<int>(k);
                ++degree[i];
            }
        std::vector<char> fixed(vertices_.size(), 0);
        for (const auto& s : spots_) fixed[static_cast<std::size_t>(s.vertex)] = 1;
        for (std::size_t v = 0; v < vertices_.size(); ++v) {
            if (degree[v] != 2 || fixed[v] || users[v][0] == users[v][1]) continue;
            int first = users[v][0], second = users[v][1];
            if (kept_[static_cast<std::size_t>(first)].piece.end != static_cast<int>(v)) std::swap(first, second);
            Kept &a = kept_[static_cast<std::size_t>(first)], &b = kept_[static_cast<std::size_t>(second)];
            if (a.piece.end != static_cast<int>(v) || b.piece.start != static_cast<int>(v)) continue;
            if (a.piece.origin != b.piece.origin || a.left != b.left || a.right != b.right) continue;
            const Curve& carrier = carriers_[static_cast<std::size_t>(a.piece.origin.front())];
            if (!carrier.closed() && (near(carrier.start(), vertices_[v]) || near(carrier.end(), vertices_[v])))
                continue;
            auto joined = Curve::joined(a.piece.curve, b.piece.curve);
            if (!joined) continue;
            a.piece.curve = std::move(*joined);
            a.piece.end = b.piece.end;
            b.gone = true;
            for (auto& u : users[static_cast<std::size_t>(b.piece.end)])
                if (u == second) u = first;
        }
        std::erase_if(kept_, [](const Kept& k) { return k.gone; });
    }

    [[nodiscard]] bool near(const Vec2& a, const Vec2& b) const { return distance(a, b) <= 2 * weld_; }

    void build() {
        Part& part = out_.part;
        std::vector<PlanarEdge> edges;
        for (const auto& k : kept_) edges.push_back({k.piece.curve, k.piece.start, k.piece.end});
        const PlanarFaces faces = trace_faces(vertices_, edges);
        std::vector<int> face_index(faces.loops.size(), -1);
        for (std::size_t f = 1; f < faces.loops.size(); ++f) {
            const EdgeSide side = faces.loops[f].front().front();
            const auto& k = kept_[static_cast<std::size_t>(side / 2)];
            const int region = side % 2 == 0 ? k.left : k.right;
            if (region < 0) continue;
            face_index[f] = static_cast<int>(part.faces.size());
            PartFace face;
            face.region = region;
            for (const auto& loop : faces.loops[f]) {
                std::vector<EdgeUse> uses;
                uses.reserve(loop.size());
                for (const EdgeSide s : loop) uses.push_back({s / 2, s % 2 == 0});
                face.loops.push_back(std::move(uses));
            }
            part.faces.push_back(std::move(face));
        }
        std::vector<int> vertex(vertices_.size(), -1);
        const auto used = [&](int v) {
            int& n = vertex[static_cast<std::size_t>(v)];
            if (n < 0) {
                n = static_cast<int>(part.vertices.size());
                part.vertices.push_back(vertices_[static_cast<std::size_t>(v)]);
            }
            return n;
        };
        std::unordered_map<std::string, int> index;  // quicker than Part::boundary_name for thousands of names
        for (const auto& d : drawn_)
            for (const auto& name : *d.names)
                if (index.try_emplace(name, static_cast<int>(part.boundary_names.size())).second)
                    part.boundary_names.push_back(name);
        for (std::size_t k = 0; k < kept_.size(); ++k) {
            PartEdge e;
            e.curve = kept_[k].piece.curve;
            e.start = used(kept_[k].piece.start);
            e.end = used(kept_[k].piece.end);
            e.left = face_index[static_cast<std::size_t>(faces.face_of_side[2 * k])];
            e.right = face_index[static_cast<std::size_t>(faces.face_of_side[2 * k + 1])];
            for (const int c : kept_[k].piece.origin)
                for (const auto& name : *drawn_[static_cast<std::size_t>(c)].names) {
                    const int n = index.at(name);
                    if (std::find(e.names.begin(), e.names.end(), n) == e.names.end()) e.names.push_back(n);
                }
            part.edges.push_back(std::move(e));
        }
        part.update_box();
        for (const auto& s : spots_) {
            const bool on_edge = vertex[static_cast<std::size_t>(s.vertex)] >= 0;
            int face = -1;
            if (!on_edge) {
                face = part.face_at(vertices_[static_cast<std::size_t>(s.vertex)]);
                if (face < 0) {
                    out_.traces[static_cast<std::size_t>(s.step)].spots_inside = false;
                    continue;
                }
            }
            out_.traces[static_cast<std::size_t>(s.step)].on_outline = true;
            const int v = used(s.vertex);
            if (face >= 0) part.faces[static_cast<std::size_t>(face)].points.push_back(v);
            part.points.push_back({s.name, v});
        }
    }

    struct Kept {
        SplitPiece piece;
        int left, right;  ///< regions
        bool gone = false;
    };
    struct PlacedSpot {
        int step, vertex;
        std::string name;
    };
    const std::vector<CombineStep>& steps_;
    Combined out_;
    int outline_count_ = 0;
    std::vector<std::vector<int>> outlines_of_step_;
    std::vector<Curve> curves_, carriers_;
    std::vector<Drawn> drawn_;
    std::vector<int> loop_;
    std::vector<Vec2> vertices_;
    std::vector<SplitPiece> pieces_;
    std::vector<PlacedSpot> spots_;
    std::vector<int> region_;  ///< of each face of the whole drawing
    std::vector<Kept> kept_;
    double weld_ = 0;
};

}  // namespace

Combined combine(const std::vector<CombineStep>& steps, const std::vector<std::string>& known_regions) {
    return Combination(steps, known_regions).run();
}

std::vector<CombineStep> steps_of(const Part& part, const Affine& map, const std::map<int, NamedCurve>& corners) {
    std::vector<CombineStep> steps;
    const auto named = [&](const PartEdge& e, bool forward) {
        NamedCurve c{e.curve.transformed(map), {}};
        if (!forward) c.curve = c.curve.reversed();
        for (const int n : e.names) c.names.push_back(part.boundary_names[static_cast<std::size_t>(n)]);
        return c;
    };
    for (std::size_t r = 0; r < part.regions.size(); ++r) {
        CombineStep step;
        step.region = part.regions[r];
        for (const auto& f : part.faces) {
            if (f.region != static_cast<int>(r)) continue;
            StepOutline outline;
            for (const auto& loop : f.loops) {
                std::vector<NamedCurve> chain;
                for (const auto& u : loop) {
                    if (part.edge(u.edge).left == part.edge(u.edge).right) continue;
                    chain.push_back(named(part.edge(u.edge), u.forward));
                    const auto corner = corners.find(part.end_of(u));
                    if (corner == corners.end()) continue;
                    NamedCurve c = corner->second;
                    c.curve = c.curve.transformed(map);
                    const Vec2& here = chain.back().curve.end();
                    if (distance(c.curve.start(), here) > distance(c.curve.end(), here)) c.curve = c.curve.reversed();
                    chain.push_back(std::move(c));
                }
                if (!chain.empty()) outline.loops.push_back(std::move(chain));
            }
            step.copies.push_back(std::move(outline));
        }
        if (!step.copies.empty()) steps.push_back(std::move(step));
    }
    CombineStep lines;
    lines.kind = CombineStep::Kind::line;
    for (const auto& e : part.edges) {
        if (!e.interior()) continue;
        const auto region = [&](int f) { return part.faces[static_cast<std::size_t>(f)].region; };
        if (region(e.left) == region(e.right)) lines.copies.push_back({{{named(e, true)}}});
    }
    for (const auto& p : part.points)
        if (!corners.count(p.vertex)) lines.spots.push_back({map(part.vertex(p.vertex)), p.name});
    if (!lines.copies.empty() || !lines.spots.empty()) steps.push_back(std::move(lines));
    return steps;
}

}  // namespace dotsift
