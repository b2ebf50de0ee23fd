#include "evidence/inspection_json.hpp"

#include "evidence/levels/json_values.hpp"

namespace dotsift {

namespace {

using nlohmann::ordered_json;

ordered_json measures_json(const AreaMeasures& m) {
    return {{"area", m.area},
            {"perimeter", m.perimeter},
            {"centroid", json_pair(m.centroid)},
            {"ixx", m.ixx},
            {"iyy", m.iyy},
            {"ixy", m.ixy}};
}

}  // namespace

ordered_json inspection_json(const StudyAndPart& opened, const PartReport& r, const Problems& problems) {
    const Part& part = opened.part;
    ordered_json j{
        {"format", 1},
        {"title", opened.study.title},
        {"units",
         {{"length", opened.study.units.label(dimension::length)},
          {"force", opened.study.units.label(dimension::force)},
          {"mass", "kg"}}},
        {"low", json_pair(r.low)},
        {"high", json_pair(r.high)},
        {"measures", measures_json(r.measures)},
        {"principal_moments",
         {{"largest", r.principal.largest}, {"smallest", r.principal.smallest}, {"angle", r.principal.angle}}},
        {"mass", r.mass ? ordered_json(*r.mass) : ordered_json()},
        {"counts",
         {{"lines", r.lines},
          {"arcs", r.arcs},
          {"splines", r.splines},
          {"chains", r.chains},
          {"vertices", r.vertices},
          {"holes", r.holes},
          {"edges_between_faces", r.interior_edges},
          {"faces", part.faces.size()}}}};
    if (r.before_cleanup) j["measures_as_drawn"] = measures_json(*r.before_cleanup);
    j["regions"] = ordered_json::array();
    for (const auto& g : r.regions)
        j["regions"].push_back({{"name", g.name},
                                {"material", g.material},
                                {"pieces", g.pieces},
                                {"measures", measures_json(g.measures)},
                                {"mass", g.mass ? ordered_json(*g.mass) : ordered_json()}});
    j["boundaries"] = ordered_json::array();
    for (const auto& b : r.boundaries)
        j["boundaries"].push_back({{"name", b.name}, {"edges", b.edges}, {"length", b.length}});
    j["points"] = ordered_json::array();
    for (const auto& p : part.points)
        j["points"].push_back({{"name", p.name}, {"at", json_pair(part.vertex(p.vertex))}});
    j["findings"] = ordered_json::array();
    for (const auto& f : r.findings) {
        ordered_json item{{"kind", f.kind}, {"text", f.text}, {"value", f.value}};
        for (const auto& p : f.places) item["places"].push_back(json_pair(p));
        if (f.elements_across) item["elements_across"] = *f.elements_across;
        j["findings"].push_back(std::move(item));
    }
    j["cleanup"] = ordered_json::array();
    for (const auto& c : opened.cleanup)
        j["cleanup"].push_back({{"what", c.what}, {"at", json_pair(c.at)}, {"done", c.done}});
    j["drawings"] = opened.notes;
    j["unused_names"] = r.unused_names;
    j["global_size"] = r.global_size;
    j["estimated_elements"] = r.estimated_elements;
    j["suggestion"] = {
        {"size", r.suggestion.size}, {"reason", r.suggestion.reason}, {"elements", r.suggestion.elements}};
    j["faults"] = ordered_json::array();
    for (const auto& f : problems.faults())
        j["faults"].push_back(
            {{"line", f.where.line}, {"column", f.where.column}, {"what", f.what}, {"remedy", f.remedy}});
    return j;
}

}  // namespace dotsift
