#include "part/facets/facet_solid.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <map>
#include <memory>

#include "base/errors.hpp"
#include "part/facets/facet_file.hpp"
#include "part/facets/facet_pieces.hpp"
#include "part/solid/solid_box.hpp"

namespace dotsift {

namespace {

// Of the solid's size: points nearer to a plane or line than this lie on it.
constexpr double in_plane_share = 1e-7;

using Ends = std::pair<std::int32_t, std::int32_t>;

class FacetSolid {
  public:
    FacetSolid(FacetPieces pieces, double feature_angle)
        : in_(std::move(pieces)), least_straight_(std::cos(feature_angle)) {}

    SolidPart run() {
        Box<3> box;
        for (const Vec3& p : in_.mesh.points) box.add(p);
        size_ = box.diagonal();
        part_.bodies.push_back({0});
        part_.regions = {"solid1"};
        find_rims();
        link_rims();
        make_edges();
        make_faces();
        part_.box = box_of(part_);
        return std::move(part_);
    }

  private:
    /// A side of a facet beyond which another piece lies, and the patches on both sides of it.
    struct Rim {
        std::int32_t a = 0, b = 0, patch_low = 0, patch_high = 0;
    };
    [[nodiscard]] const Vec3& point(std::int32_t i) const { return in_.mesh.points[static_cast<std::size_t>(i)]; }
    [[nodiscard]] const Facet& facet(std::int32_t f) const { return in_.mesh.facets[static_cast<std::size_t>(f)]; }

    void find_rims() {
        for (std::size_t f = 0; f < in_.mesh.facets.size(); ++f)
            for (std::size_t k = 0; k < 3; ++k)
                half_[{in_.mesh.facets[f].v[k], in_.mesh.facets[f].v[(k + 1) % 3]}] = {static_cast<std::int32_t>(f),
                                                                                       static_cast<std::int32_t>(k)};
        for (const auto& [ends, where] : half_) {
            const auto [a, b] = ends;
            const auto other = half_.at({b, a}).first;
            const auto own = static_cast<std::size_t>(where.first), beyond = static_cast<std::size_t>(other);
            if (a > b || in_.piece[own] == in_.piece[beyond]) continue;
            const auto [low, high] = std::minmax(in_.patch[own], in_.patch[beyond]);
            at_point_[a].push_back(rims_.size());
            at_point_[b].push_back(rims_.size());
            rims_.push_back({a, b, low, high});
        }
    }
    [[nodiscard]] std::int32_t far_end(std::size_t rim, std::int32_t from) const {
        return rims_[rim].a == from ? rims_[rim].b : rims_[rim].a;
    }

    /// Which rim goes on smoothly where another one ends: between the same patches, without a turn. -1: none.
    [[nodiscard]] std::ptrdiff_t next(std::size_t rim, std::int32_t at) const {
        std::ptrdiff_t found = -1;
        for (const std::size_t other : at_point_.at(at)) {
            if (other == rim || rims_[other].patch_low != rims_[rim].patch_low ||
                rims_[other].patch_high != rims_[rim].patch_high)
                continue;
            if (found >= 0) return -1;
            found = static_cast<std::ptrdiff_t>(other);
        }
        if (found < 0) return -1;
        const Vec3 in = point(at) - point(far_end(rim, at)),
                   out = point(far_end(static_cast<std::size_t>(found), at)) - point(at);
        return dot(in, out) >= least_straight_ * norm(in) * norm(out) ? found : -1;
    }

    /// Rims that follow each other smoothly, as lists of points; closed ones end where they begin.
    void link_rims() {
        std::vector<char> done(rims_.size(), 0);
        for (std::size_t seed = 0; seed < rims_.size(); ++seed) {
            if (done[seed]) continue;
            done[seed] = 1;
            std::vector<std::int32_t> line{rims_[seed].a, rims_[seed].b};
            bool closed = false;
            const auto follow = [&](bool forwards) {
                std::size_t rim = seed;
                while (true) {
                    const std::int32_t at = forwards ? line.back() : line.front();
                    const std::ptrdiff_t more = next(rim, at);
                    if (more < 0) return;
                    if (done[static_cast<std::size_t>(more)]) {
                        closed = line.front() == line.back();
                        return;
                    }
                    rim = static_cast<std::size_t>(more);
                    done[rim] = 1;
                    line.insert(forwards ? line.end() : line.begin(), far_end(rim, at));
                }
            };
            follow(true);
            if (!closed) follow(false);
            if (!closed && line.front() == line.back()) {  // round to its own corner: two lines
                const auto middle = line.begin() + static_cast<std::ptrdiff_t>(line.size() / 2);
                lines_.emplace_back(middle, line.end());
                line.erase(middle + 1, line.end());
            }
            lines_.push_back(std::move(line));
        }
    }

    /// Where other lines meet one it is parted; closed ones into three at least.
    void make_edges() {
        std::vector<char> node(in_.mesh.points.size(), 0);
        for (const auto& [p, rims] : at_point_)
            if (rims.size() != 2) node[static_cast<std::size_t>(p)] = 1;
        for (const auto& line : lines_)
            if (line.front() != line.back())
                for (const auto p : {line.front(), line.back()}) node[static_cast<std::size_t>(p)] = 1;
        for (auto& line : lines_) {
            const bool closed = line.front() == line.back();
            if (closed) {
                std::size_t nodes = 0, first = 0;
                for (std::size_t k = line.size() - 1; k-- > 0;)
                    if (node[static_cast<std::size_t>(line[k])]) {
                        ++nodes;
                        first = k;
                    }
                if (nodes < 2) {
                    const std::size_t steps = line.size() - 1;
                    for (const std::size_t k : {first, first + steps / 3, first + 2 * steps / 3})
                        node[static_cast<std::size_t>(line[k % steps])] = 1;
                }
                line.pop_back();
                std::rotate(line.begin(), line.begin() + static_cast<std::ptrdiff_t>(first), line.end());
                line.push_back(line.front());
            }
            add_edges(line, node);
        }
    }

    void add_edges(const std::vector<std::int32_t>& line, const std::vector<char>& node) {
        std::vector<Vec3> places;
        places.reserve(line.size());
        for (const auto p : line) places.push_back(point(p));
        const bool straight = std::all_of(places.begin(), places.end(), [&](const Vec3& p) {
            return distance(nearest_on_segment(p, places.front(), places.back()), p) <= in_plane_share * size_;
        });
        std::shared_ptr<const NurbsIn<3>> spline;
        std::vector<double> at{0};
        if (!straight) {
            spline = std::make_shared<const NurbsIn<3>>(spline_through(places));
            for (std::size_t k = 1; k < places.size(); ++k)
                at.push_back(at.back() + distance(places[k], places[k - 1]));
        }
        std::size_t from = 0;
        for (std::size_t k = 1; k < line.size(); ++k) {
            if (k + 1 < line.size() && !node[static_cast<std::size_t>(line[k])]) continue;
            SolidEdge e{
                straight ? CurveIn<3>::line(places[from], places[k]) : CurveIn<3>::spline(spline, at[from], at[k]),
                vertex(line[from]), vertex(line[k])};
            e.curve.set_ends(places[from], places[k]);
            for (std::size_t m = from; m < k; ++m) {
                use_[{line[m], line[m + 1]}] = {static_cast<int>(part_.edges.size()), true};
                use_[{line[m + 1], line[m]}] = {static_cast<int>(part_.edges.size()), false};
            }
            part_.edges.push_back(std::move(e));
            from = k;
        }
    }
    int vertex(std::int32_t p) {
        const auto [known, added] = vertex_.try_emplace(p, static_cast<int>(part_.vertices.size()));
        if (added) part_.vertices.push_back(point(p));
        return known->second;
    }

    void make_faces() {
        std::vector<std::vector<std::int32_t>> of_piece(static_cast<std::size_t>(in_.pieces));
        for (std::size_t f = 0; f < in_.mesh.facets.size(); ++f)
            of_piece[static_cast<std::size_t>(in_.piece[f])].push_back(static_cast<std::int32_t>(f));
        for (const auto& members : of_piece) {
            SolidFace face;
            face.behind = 0;
            face.surface = surface_of(members);
            face.loops = loops_of(members);
            const std::string& group = in_.mesh.groups[static_cast<std::size_t>(facet(members.front()).group)];
            for (const auto& name : names_joined_in(group)) part_.add_name(name, face.names);
            part_.faces.push_back(std::move(face));
        }
    }

    [[nodiscard]] Surface surface_of(const std::vector<std::int32_t>& members) const {
        Vec3 normal, middle;
        double area = 0;
        for (const auto f : members) {
            const Vec3 n = in_.mesh.twice_area(facet(f));
            normal += n;
            area += norm(n);
            middle += (in_.mesh.corner(facet(f), 0) + in_.mesh.corner(facet(f), 1) + in_.mesh.corner(facet(f), 2)) *
                      (norm(n) / 3);
        }
        middle = middle / area;
        normal = normal / norm(normal);
        bool flat = true;
        for (const auto f : members)
            for (std::size_t k = 0; k < 3; ++k)
                flat = flat && std::fabs(dot(in_.mesh.corner(facet(f), k) - middle, normal)) <= in_plane_share * size_;
        if (flat) {
            const Vec3 side = in_.mesh.corner(facet(members.front()), 1) - in_.mesh.corner(facet(members.front()), 0);
            return Surface::plane(Frame::about(middle, normal, middle + side));
        }
        std::vector<Vec3> points, normals;
        std::vector<FlatTriangle> facets;
        std::map<std::int32_t, std::size_t> now;
        const std::int32_t patch = in_.patch[static_cast<std::size_t>(members.front())];
        for (const auto f : members) {
            FlatTriangle t{};
            for (std::size_t k = 0; k < 3; ++k) {
                const auto [known, added] = now.try_emplace(facet(f).v[k], points.size());
                if (added) {
                    points.push_back(point(facet(f).v[k]));
                    normals.push_back(in_.normal(patch, facet(f).v[k]));
                }
                t[k] = known->second;
            }
            facets.push_back(t);
        }
        const Vec3 at = points.front();
        FacetSurface surface(std::move(points), std::move(normals), std::move(facets));
        if (surface.folded())
            throw InputError(fmt::format("its facets fold over each other where they should be smooth, near ({:.6g}, "
                                         "{:.6g}, {:.6g})",
                                         at[0], at[1], at[2]),
                             {}, "give a smaller feature_angle, or write it with more facets there");
        return Surface::over_facets(std::move(surface));
    }

    /// Along the sides of a piece, which has its facets on their left.
    [[nodiscard]] std::vector<std::vector<EdgeUse>> loops_of(const std::vector<std::int32_t>& members) const {
        const std::int32_t piece = in_.piece[static_cast<std::size_t>(members.front())];
        std::map<Ends, bool> open;
        for (const auto f : members)
            for (std::size_t k = 0; k < 3; ++k) {
                const Ends ends{facet(f).v[k], facet(f).v[(k + 1) % 3]};
                if (in_.piece[static_cast<std::size_t>(half_.at({ends.second, ends.first}).first)] != piece)
                    open[ends] = true;
            }
        std::vector<std::vector<EdgeUse>> loops;
        double widest = -1;
        for (auto& [seed, waits] : open) {
            if (!waits) continue;
            std::vector<EdgeUse> loop;
            Box<3> box;
            Ends at = seed;
            while (open.at(at)) {
                open.at(at) = false;
                box.add(point(at.first));
                const EdgeUse use = use_.at(at);
                if (loop.empty() || loop.back().edge != use.edge || loop.back().forward != use.forward)
                    loop.push_back(use);
                at = follow(at, piece);
            }
            // Begun in the middle of an edge it ends there.
            if (loop.size() > 1 && loop.back().edge == loop.front().edge && loop.back().forward == loop.front().forward)
                loop.pop_back();
            const double size = box.diagonal();
            loops.push_back(std::move(loop));
            if (size > widest) {  // the outer one comes first
                widest = size;
                std::swap(loops.front(), loops.back());
            }
        }
        return loops;
    }
    /// The side of the piece that begins where one ends.
    [[nodiscard]] Ends follow(const Ends& at, std::int32_t piece) const {
        auto [f, k] = half_.at(at);
        while (true) {
            k = (k + 1) % 3;
            const Ends side{facet(f).v[static_cast<std::size_t>(k)], facet(f).v[static_cast<std::size_t>((k + 1) % 3)]};
            const auto beyond = half_.at({side.second, side.first});
            if (in_.piece[static_cast<std::size_t>(beyond.first)] != piece) return side;
            f = beyond.first;
            k = beyond.second;
        }
    }

    FacetPieces in_;
    double least_straight_, size_ = 0;
    SolidPart part_;
    std::map<Ends, std::pair<std::int32_t, std::int32_t>> half_;  ///< facet and side that runs so
    std::vector<Rim> rims_;
    std::map<std::int32_t, std::vector<std::size_t>> at_point_;
    std::vector<std::vector<std::int32_t>> lines_;
    std::map<Ends, EdgeUse> use_;
    std::map<std::int32_t, int> vertex_;
};

}  // namespace

SolidPart solid_of_facets(FacetMesh mesh, double feature_angle) {
    return FacetSolid(parted(std::move(mesh), feature_angle), feature_angle).run();
}

std::vector<SolidPart> solids_of_facets(const std::filesystem::path& file, double factor, double feature_angle,
                                        std::vector<std::string>& notes) {
    FacetMesh mesh = read_facets(file);
    for (Vec3& p : mesh.points) p = p * factor;
    std::vector<SolidPart> out;
    for (auto& solid : closed_solids(std::move(mesh), notes)) {
        out.push_back(solid_of_facets(std::move(solid), feature_angle));
        out.back().regions = {fmt::format("solid{}", out.size())};
    }
    return out;
}

}  // namespace dotsift
