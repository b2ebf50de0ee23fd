#include "part/part.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <set>

#include "base/errors.hpp"
#include "part/combine.hpp"
#include "part/shapes.hpp"

namespace dotsift {

namespace {
// Two points of a study closer than this share of the part's diagonal are meant to be the same.
constexpr double same_point_share = 1e-6;
}  // namespace

double Part::area() const {
    double twice = 0;
    for (const auto& e : edges) twice += e.curve.twice_area();
    return twice / 2;
}

int Part::vertex_at(const Vec2& p) const {
    for (std::size_t v = 0; v < vertices.size(); ++v)
        if (distance(vertices[v], p) <= same_point_share * box.diagonal()) return static_cast<int>(v);
    return -1;
}

std::vector<int> Part::edges_named(const std::vector<std::string>& patterns) const {
    std::vector<int> list;
    for (std::size_t e = 0; e < edges.size(); ++e) {
        const bool fits = std::any_of(edges[e].names.begin(), edges[e].names.end(), [&](int n) {
            return std::any_of(patterns.begin(), patterns.end(), [&](const std::string& p) {
                return fits_pattern(boundary_names[static_cast<std::size_t>(n)], p);
            });
        });
        if (fits) list.push_back(static_cast<int>(e));
    }
    return list;
}

namespace {

/// Tells of shapes that left no trace: a cut beside the material, an addition inside it.
void check_traces(const Study& study, const std::vector<std::size_t>& shape_of_label,
                  const std::vector<CombinedFace>& faces, Problems& problems) {
    std::set<std::size_t> traced;
    for (const auto& face : faces)
        for (const auto& loop : face)
            for (const auto& e : loop)
                for (const int l : e.labels) traced.insert(shape_of_label[static_cast<std::size_t>(l)]);
    for (std::size_t i = 0; i < study.shapes.size(); ++i) {
        if (traced.count(i)) continue;
        const auto& shape = study.shapes[i];
        const bool later = i + 1 < study.shapes.size();
        if (shape.add)
            problems.warn(
                shape.where, fmt::format("shape {} leaves no edge on the outline", i + 1),
                later ? "it lies inside the others, or was cut away again" : "it lies inside the others: remove it");
        else
            problems.add(shape.where, fmt::format("shape {} cuts nothing: it lies outside the material", i + 1),
                         "move it onto the part, or remove it");
    }
}

}  // namespace

Part build_part(const Study& study, Problems& problems) {
    Part part;
    std::vector<LabelledLoop> loops;
    std::vector<std::size_t> shape_of_label;
    std::vector<std::vector<std::string>> names_of_label;
    bool good = !study.shapes.empty();
    for (std::size_t i = 0; i < study.shapes.size(); ++i) {
        const auto outline = outline_of(study.shapes[i], problems);
        if (outline.empty()) {
            good = false;
            continue;
        }
        LabelledLoop loop;
        loop.add = study.shapes[i].add;
        for (const auto& edge : outline) {
            loop.curves.push_back(edge.curve);
            loop.labels.push_back(static_cast<int>(shape_of_label.size()));
            shape_of_label.push_back(i);
            names_of_label.push_back(edge.names);
        }
        loops.push_back(std::move(loop));
    }
    if (!good) return part;
    std::vector<CombinedFace> faces;
    try {
        faces = combine(loops);
    } catch (const InputError& e) {
        problems.add(study.part_where, e.what(), e.remedy());
        return part;
    }
    if (faces.empty()) {
        problems.add(study.part_where, "the cuts leave nothing of the part", "check the size and place of the cuts");
        return part;
    }
    check_traces(study, shape_of_label, faces, problems);

    const auto name_index = [&](const std::string& name) {
        const auto found = std::find(part.boundary_names.begin(), part.boundary_names.end(), name);
        if (found != part.boundary_names.end()) return static_cast<int>(found - part.boundary_names.begin());
        part.boundary_names.push_back(name);
        return static_cast<int>(part.boundary_names.size()) - 1;
    };
    for (const auto& names : names_of_label)
        for (const auto& name : names) name_index(name);
    for (const auto& face : faces) {
        PartFace out;
        for (const auto& loop : face) {
            std::vector<int> chain;
            const int first_vertex = static_cast<int>(part.vertices.size());
            for (std::size_t k = 0; k < loop.size(); ++k) {
                const auto& e = loop[k];
                PartEdge edge;
                edge.curve = e.curve;
                edge.start = first_vertex + static_cast<int>(k);
                edge.end = first_vertex + static_cast<int>((k + 1) % loop.size());
                edge.face = static_cast<int>(part.faces.size());
                for (const int label : e.labels) {
                    for (const auto& name : names_of_label[static_cast<std::size_t>(label)]) {
                        const int n = name_index(name);
                        if (std::find(edge.names.begin(), edge.names.end(), n) == edge.names.end())
                            edge.names.push_back(n);
                    }
                }
                part.box.add(edge.curve.box());
                part.vertices.push_back(edge.curve.start());
                chain.push_back(static_cast<int>(part.edges.size()));
                part.edges.push_back(std::move(edge));
            }
            out.loops.push_back(std::move(chain));
        }
        part.faces.push_back(std::move(out));
    }
    return part;
}

}  // namespace dotsift
