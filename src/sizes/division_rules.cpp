#include "sizes/division_rules.hpp"

#include <fmt/format.h>

#include <algorithm>

#include "base/errors.hpp"

namespace dotsift {

namespace {

std::vector<int> ends_named(const Part& part, const std::string& name, int but) {
    std::vector<int> vertices = part.points_named({name});
    for (const int e : part.edges_named({name}))
        if (e != but) vertices.insert(vertices.end(), {part.edge(e).start, part.edge(e).end});
    return vertices;
}

std::vector<int> ends_named(const SolidPart& part, const std::string& name, int but) {
    std::vector<int> vertices = part.points_named({name});
    const auto add = [&](int e) {
        if (e != but) vertices.insert(vertices.end(), {part.edge(e).start, part.edge(e).end});
    };
    for (const int e : part.edges_named({name})) add(e);
    for (const int f : part.faces_named({name})) {
        // A face whose rim the edge is meets it everywhere, not at one end.
        const auto has = [&](const auto& loop) {
            return std::any_of(loop.begin(), loop.end(), [&](const EdgeUse& use) { return use.edge == but; });
        };
        const auto& loops = part.face(f).loops;
        if (std::any_of(loops.begin(), loops.end(), has)) continue;
        for (const auto& loop : loops)
            for (const EdgeUse& use : loop) add(use.edge);
    }
    return vertices;
}

Vec2 place_of(const Vec3& p, const Part&) {
    return in_plane(p);
}
Vec3 place_of(const Vec3& p, const SolidPart&) {
    return p;
}
const Vec2& vertex_of(const Part& part, int v) {
    return part.vertex(v);
}
const Vec3& vertex_of(const SolidPart& part, int v) {
    return part.vertices[static_cast<std::size_t>(v)];
}

template <int D>
class DivisionRule {
  public:
    DivisionRule(const PartIn<D>& part, const SizeSpec& spec, int index, const std::filesystem::path& file)
        : part_(part), spec_(spec), rule_(spec.local[static_cast<std::size_t>(index)]), index_(index), file_(file) {}

    void run(std::vector<EdgeDivision>& divisions, std::vector<SizeSourceIn<D>>& sources) const {
        for (const int e : part_.edges_named(rule_.on)) {
            const auto& edge = part_.edge(e);
            for (const auto& other : divisions)
                if (other.edge == e && other.count != rule_.divisions)
                    refuse(fmt::format("{} divisions of {} contradict the {} of size.local.{}", rule_.divisions,
                                       part_.name_of_edge(e), other.count,
                                       spec_.local[static_cast<std::size_t>(other.rule)].name),
                           "keep one of the two rules");
            if (edge.start == edge.end && rule_.divisions < 3)
                refuse(fmt::format("{} is a closed curve, which needs at least 3 divisions", part_.name_of_edge(e)),
                       {});
            const EdgeDivision d{e, rule_.divisions, rule_.bias, finer_end(e), index_};
            divisions.push_back(d);
            const double length = edge.curve.length();
            const auto shares = d.shares();
            for (std::size_t k = 1; k < shares.size(); ++k) {
                SizeSourceIn<D> s;
                s.corners = {edge.curve.point(shares[k - 1]), edge.curve.point(shares[k]), {}};
                s.form = SizeSourceIn<D>::Form::segment;
                s.size = length * (shares[k] - shares[k - 1]);
                s.rule = index_;
                sources.push_back(s);
            }
        }
    }

  private:
    [[noreturn]] void refuse(const std::string& what, const std::string& remedy) const {
        throw InputError(fmt::format("size.local.{}: {}", rule_.name, what), place_in(file_, rule_.where), remedy);
    }

    [[nodiscard]] EdgeDivision::Finer finer_end(int e) const {
        using Finer = EdgeDivision::Finer;
        if (rule_.finer_at == FinerAt::middle) return Finer::middle;
        if (rule_.finer_at != FinerAt::place) return Finer::ends;
        const int start = part_.edge(e).start, end = part_.edge(e).end;
        if (rule_.finer_place) {
            const auto at = place_of(*rule_.finer_place, part_);
            return distance(vertex_of(part_, start), at) <= distance(vertex_of(part_, end), at) ? Finer::start
                                                                                                : Finer::end;
        }
        const auto met = ends_named(part_, rule_.finer_name, e);
        const auto meets = [&](int vertex) { return std::find(met.begin(), met.end(), vertex) != met.end(); };
        if (meets(start) && meets(end)) return Finer::ends;
        if (!meets(start) && !meets(end))
            refuse(fmt::format("finer_at is \"{}\", but nothing of that name meets {}", rule_.finer_name,
                               part_.name_of_edge(e)),
                   "use \"ends\", \"middle\", a position, or the name of something at one of its ends");
        return meets(start) ? Finer::start : Finer::end;
    }

    const PartIn<D>& part_;
    const SizeSpec& spec_;
    const LocalSize& rule_;
    int index_;
    const std::filesystem::path& file_;
};

}  // namespace

template <int D>
void add_divisions(const PartIn<D>& part, const SizeSpec& spec, int index, const std::filesystem::path& study_file,
                   std::vector<EdgeDivision>& divisions, std::vector<SizeSourceIn<D>>& sources) {
    DivisionRule<D>(part, spec, index, study_file).run(divisions, sources);
}
template void add_divisions<2>(const Part&, const SizeSpec&, int, const std::filesystem::path&,
                               std::vector<EdgeDivision>&, std::vector<SizeSource>&);
template void add_divisions<3>(const SolidPart&, const SizeSpec&, int, const std::filesystem::path&,
                               std::vector<EdgeDivision>&, std::vector<SizeSourceIn<3>>&);

}  // namespace dotsift
