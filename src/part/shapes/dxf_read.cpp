#include "part/shapes/dxf_read.hpp"

#include <dxflib/dl_creationadapter.h>
#include <dxflib/dl_dxf.h>
#include <fmt/format.h>

#include <algorithm>
#include <array>
#include <charconv>
#include <cmath>
#include <numbers>
#include <set>
#include <sstream>

#include "base/errors.hpp"
#include "part/shapes/pieces.hpp"

namespace dotsift {

namespace {

using std::numbers::pi;
constexpr std::size_t longest_value = 255;
constexpr int deepest_insert = 16;
constexpr std::size_t most_curves = 1'000'000, most_visits = 4'000'000;

const std::set<std::string, std::less<>> read_kinds{"LINE",   "ARC",    "CIRCLE", "ELLIPSE", "LWPOLYLINE", "POLYLINE",
                                                    "VERTEX", "SEQEND", "SPLINE", "POINT",   "INSERT"};

[[noreturn]] void damaged(const std::string& file, int line, const std::string& what,
                          const std::string& remedy = "save the drawing again as text DXF") {
    Place place;
    place.file = file;
    place.line = line;
    place.column = 1;
    throw InputError(what, place, remedy);
}

/// The pairs of the file that matter, checked, as text for the parser.
struct Sifted {
    std::string text;
    std::map<std::string, int> skipped;
};

class Sieve {
  public:
    Sieve(const std::string& text, const std::string& file) : text_(text), file_(file) {}

    Sifted run() {
        if (text_.find('\0') != std::string::npos)
            damaged(file_, 0, "this is a binary file, not a text DXF", "save the drawing as text (ASCII) DXF");
        bool entities = false, ended = false;
        std::string section, variable, kind;
        bool keep_entity = true;
        while (position_ < text_.size() && !ended) {
            const int line = line_ + 1;
            const std::string_view code_text = next_line();
            if (position_ >= text_.size() && code_text.empty()) break;
            int code = 0;
            const auto [end, bad] = std::from_chars(code_text.data(), code_text.data() + code_text.size(), code);
            if (bad != std::errc{} || end != code_text.data() + code_text.size() || code < -5 || code > 1071)
                damaged(file_, line,
                        fmt::format("\"{}\" is no group code: this is no text DXF, or it is damaged",
                                    std::string(code_text.substr(0, 40))));
            if (position_ >= text_.size()) break;
            const std::string_view value = next_line();
            if (code == 0) {
                kind = value;
                if (value == "EOF") {
                    ended = true;
                    put(0, "EOF");
                    break;
                }
                if (value == "SECTION") {
                    section.clear();
                    await_section_ = true;
                    continue;
                }
                if (value == "ENDSEC") {
                    if (section_kept(section)) put(0, "ENDSEC");
                    section.clear();
                    continue;
                }
                keep_entity = section == "ENTITIES" || section == "BLOCKS";
                const bool block = section == "BLOCKS" && (value == "BLOCK" || value == "ENDBLK");
                if (keep_entity && !block && !read_kinds.contains(value)) {
                    keep_entity = false;
                    if (section == "ENTITIES") ++out_.skipped[std::string(value.substr(0, 40))];
                }
                if (!keep_entity) continue;
                put(0, value);
                // The parser does not tell lines: they travel as the name of the line type, which nothing else reads.
                if (!block) put(6, std::to_string(line));
                continue;
            }
            if (await_section_ && code == 2) {
                section = value;
                await_section_ = false;
                entities = entities || section == "ENTITIES";
                if (section_kept(section)) {
                    put(0, "SECTION");
                    put(2, section);
                }
                variable.clear();
                continue;
            }
            if (section == "HEADER") {
                if (code == 9) variable = value;
                if (variable == "$INSUNITS" && (code == 9 || code == 70)) put(code, checked(code, value, line));
                continue;
            }
            if (!keep_entity || !(section == "ENTITIES" || section == "BLOCKS") || !wanted(code)) continue;
            put(code, checked(code, value, line));
        }
        if (!ended)
            damaged(file_, line_,
                    out_.text.empty() ? "this is no DXF file: it has no sections"
                                      : "the file ends in the middle: it lacks its EOF mark");
        if (!entities) damaged(file_, line_, "the drawing has no ENTITIES section", "does it hold any geometry?");
        return std::move(out_);
    }

  private:
    std::string_view next_line() {
        const std::size_t end = std::min(text_.find('\n', position_), text_.size());
        std::string_view line(text_.data() + position_, end - position_);
        position_ = end + 1;
        ++line_;
        while (!line.empty() && (line.back() == '\r' || line.back() == ' ' || line.back() == '\t'))
            line.remove_suffix(1);
        while (!line.empty() && (line.front() == ' ' || line.front() == '\t')) line.remove_prefix(1);
        return line;
    }

    static bool section_kept(const std::string& name) {
        return name == "HEADER" || name == "BLOCKS" || name == "ENTITIES";
    }
    static bool wanted(int code) {
        return code == 2 || code == 8 || (code >= 10 && code <= 59) || code == 66 || (code >= 70 && code <= 79) ||
               code == 90 || code == 210 || code == 220 || code == 230;
    }

    /// Numbers must be finite numbers, counts must not promise more than the file can hold.
    std::string checked(int code, std::string_view value, int line) const {
        if (value.size() > longest_value) damaged(file_, line + 1, "a value is longer than 255 letters");
        const bool real = (code >= 10 && code <= 59) || (code >= 210 && code <= 230);
        const bool whole = code == 66 || (code >= 70 && code <= 90);
        if (!real && !whole) return std::string(value);
        double number = 0;
        if (!value.empty() && value.front() == '+') value.remove_prefix(1);
        const auto [end, bad] = std::from_chars(value.data(), value.data() + value.size(), number);
        if (bad != std::errc{} || end != value.data() + value.size() || !std::isfinite(number))
            damaged(file_, line + 1, fmt::format("\"{}\" is no number", std::string(value.substr(0, 40))));
        if (whole && (std::fabs(number) > static_cast<double>(text_.size()) || number != std::floor(number)))
            damaged(file_, line + 1, fmt::format("{:g} is no possible count or flag here", number));
        if (real && std::fabs(number) > 1e15)
            damaged(file_, line + 1, fmt::format("{:g} is no sensible length", number));
        return whole ? fmt::format("{}", static_cast<long long>(number)) : fmt::format("{:.17g}", number);
    }

    void put(int code, std::string_view value) { out_.text += fmt::format("{}\n{}\n", code, value); }

    const std::string& text_;
    const std::string& file_;
    std::size_t position_ = 0;
    int line_ = 0;
    bool await_section_ = false;
    Sifted out_;
};

/// From one angle on to the other, by more than nothing and at most a full turn; files mean a full turn by ends that
/// differ from one by rounding.
std::pair<double, double> anticlockwise(double from, double to, double full_turn) {
    const double rounding = 1e-10 * full_turn;
    double turn = std::fmod(to - from, full_turn);
    if (turn < 0) turn += full_turn;
    if (turn < rounding && std::fabs(to - from) > rounding) turn = full_turn;
    if (turn == 0 || full_turn - turn < rounding) turn = full_turn;
    const double start = std::fmod(from, full_turn);
    return {start, start + turn};
}

struct Item {
    enum class Kind { curve, point, insert } kind = Kind::curve;
    Curve curve;
    Vec2 at;
    std::string layer, block;
    int line = 0;
    Affine map;
    std::vector<Affine> copies;
};

struct Block {
    Vec2 base;
    std::vector<Item> items;
};

class Collector : public DL_CreationAdapter {
  public:
    Collector(const Sifted& sifted, const std::string& file) : sifted_(sifted), file_(file) {}

    DxfContent result() {
        finish();
        for (const auto& item : top_.items) place(item, item.layer, {}, 0);
        out_.skipped = sifted_.skipped;
        return std::move(out_);
    }

    void setVariableInt(const std::string& key, int value, int) override {
        // Values of the header variable for insertion units.
        static const std::map<int, double> units{{1, 0.0254}, {2, 0.3048}, {4, 1e-3}, {5, 1e-2},
                                                 {6, 1.0},    {7, 1e3},    {13, 1e-6}};
        const auto found = units.find(value);
        if (key == "$INSUNITS" && found != units.end()) out_.metres = found->second;
    }
    void addBlock(const DL_BlockData& data) override {
        finish();
        current_ = &blocks_[data.name];
        current_->base = {{data.bpx, data.bpy}};
    }
    void endBlock() override {
        finish();
        current_ = &top_;
    }
    void addPoint(const DL_PointData& p) override {
        finish();
        Item item = fresh(Item::Kind::point);
        item.at = {{p.x, p.y}};
        keep(item);
    }
    void addLine(const DL_LineData& l) override {
        finish();
        add(Curve::line({{l.x1, l.y1}}, {{l.x2, l.y2}}), false);
    }
    void addArc(const DL_ArcData& a) override {
        finish();
        const auto [from, to] = anticlockwise(a.angle1, a.angle2, 360);
        add(Curve::arc({{a.cx, a.cy}}, {{a.radius, 0}}, {{0, a.radius}}, from * pi / 180, to * pi / 180), true);
    }
    void addCircle(const DL_CircleData& c) override {
        finish();
        add(Curve::arc({{c.cx, c.cy}}, {{c.radius, 0}}, {{0, c.radius}}, 0, 2 * pi), true);
    }
    void addEllipse(const DL_EllipseData& e) override {
        finish();
        const Vec2 a{{e.mx, e.my}};
        const double ratio = std::fabs(e.ratio);
        if (!(norm(a) > 0) || !(ratio > 0)) damaged(file_, line(), "an ellipse has an axis of no length");
        const auto [from, to] = anticlockwise(e.angle1, e.angle2, 2 * pi);
        add(Curve::arc({{e.cx, e.cy}}, a, turned_left(a) * (mirrored() ? -ratio : ratio), from, to), false);
    }
    void addPolyline(const DL_PolylineData& p) override {
        finish();
        pending_ = fresh(Item::Kind::curve);
        pending_mirrored_ = mirrored();
        polyline_closed_ = (p.flags & 1) != 0;
        in_polyline_ = true;
    }
    void addVertex(const DL_VertexData& v) override {
        if (in_polyline_) vertices_.push_back({{{v.x, v.y}}, v.bulge});
    }
    void endSequence() override { finish(); }
    void addSpline(const DL_SplineData& s) override {
        finish();
        pending_ = fresh(Item::Kind::curve);
        spline_ = std::make_unique<Nurbs>();
        spline_->degree = static_cast<int>(s.degree);
        fit_.clear();
    }
    void addKnot(const DL_KnotData& k) override {
        if (spline_) spline_->knots.push_back(k.k);
    }
    void addControlPoint(const DL_ControlPointData& c) override {
        if (!spline_) return;
        spline_->poles.push_back({{c.x, c.y}});
        spline_->weights.push_back(c.w);
    }
    void addFitPoint(const DL_FitPointData& f) override {
        if (spline_) fit_.push_back({{f.x, f.y}});
    }
    void addInsert(const DL_InsertData& i) override {
        finish();
        Item item = fresh(Item::Kind::insert);
        item.block = i.name;
        const Affine turn = Affine::rotation(i.angle * pi / 180, {});
        const Affine scale{{{i.sx, 0}}, {{0, i.sy}}, {}};
        if (i.sx == 0 || i.sy == 0) damaged(file_, line(), "a block is inserted with a scale of 0");
        const long long columns = std::max(1, i.cols), rows = std::max(1, i.rows);
        if (columns * rows > 10'000) damaged(file_, line(), "a block is inserted more than 10000 times at once");
        copies_ += static_cast<std::size_t>(columns * rows);
        if (copies_ > most_curves) damaged(file_, line(), "blocks are inserted more than a million times");
        for (long long r = 0; r < rows; ++r)
            for (long long c = 0; c < columns; ++c) {
                const Vec2 shift = turn.turned({{static_cast<double>(c) * i.colSp, static_cast<double>(r) * i.rowSp}});
                Affine map = Affine::move(Vec2{{i.ipx, i.ipy}} + shift).after(turn.after(scale));
                if (mirrored()) map = Affine{{{-1, 0}}, {{0, 1}}, {}}.after(map);
                item.copies.push_back(map);
            }
        keep(item);
    }
    void endEntity() override {}

  private:
    struct Vertex {
        Vec2 at;
        double bulge;
    };

    /// Of the file, where the current entity begins.
    int line() {
        const std::string text = getAttributes().getLinetype();
        int value = 0;
        std::from_chars(text.data(), text.data() + text.size(), value);
        return value;
    }

    bool mirrored() { return getExtrusion()->getDirection()[2] < 0; }

    Item fresh(Item::Kind kind) {
        Item item;
        item.kind = kind;
        item.layer = getAttributes().getLayer();
        item.line = line();
        return item;
    }
    void keep(const Item& item) { current_->items.push_back(item); }

    void add(const Curve& curve, bool own_axes) {
        Item item = fresh(Item::Kind::curve);
        item.curve = own_axes && mirrored() ? curve.transformed({{{-1, 0}}, {{0, 1}}, {}}) : curve;
        keep(item);
    }

    /// Entities that come in several calls end when the next begins.
    void finish() {
        if (in_polyline_) {
            in_polyline_ = false;
            if (polyline_closed_ && vertices_.size() > 1) vertices_.push_back({vertices_.front().at, 0});
            for (std::size_t i = 1; i < vertices_.size(); ++i) {
                const auto &a = vertices_[i - 1], &b = vertices_[i];
                Item item = pending_;
                if (a.at == b.at) {
                    out_.ignored.emplace_back(item.line, "a side of a polyline has no length");
                    continue;
                }
                item.curve = a.bulge == 0 ? Curve::line(a.at, b.at) : arc_of_bulge(a.at, b.at, a.bulge);
                if (pending_mirrored_) item.curve = item.curve.transformed({{{-1, 0}}, {{0, 1}}, {}});
                keep(item);
            }
            vertices_.clear();
        }
        if (spline_) {
            Nurbs nurbs = std::move(*spline_);
            spline_.reset();
            if (std::all_of(nurbs.weights.begin(), nurbs.weights.end(),
                            [&](double w) { return w == nurbs.weights.front(); }))
                nurbs.weights.clear();
            if (nurbs.poles.empty() && fit_.size() >= 2) {
                fit_.erase(std::unique(fit_.begin(), fit_.end()), fit_.end());
                if (fit_.size() < 2) {
                    out_.ignored.emplace_back(pending_.line, "a spline has no length");
                    return;
                }
                nurbs = spline_through(fit_);
            }
            if (const char* fault = nurbs.fault())
                damaged(file_, pending_.line, fmt::format("a spline cannot be used: {}", fault));
            auto shared = std::make_shared<const Nurbs>(std::move(nurbs));
            pending_.curve = Curve::spline(shared, shared->low(), shared->high());
            keep(pending_);
        }
    }

    /// Blocks of blocks multiply, even where they hold nothing.
    void count_visit(int at) {
        if (++visits_ > most_visits)
            damaged(file_, at, "blocks are inserted in blocks more than four million times in all",
                    "draw less, or in parts");
    }

    void place(const Item& item, const std::string& layer, const Affine& map, int depth) {
        count_visit(item.line);
        if (out_.curves.size() + out_.points.size() > most_curves)
            damaged(file_, item.line, "the drawing has more than a million curves", "draw less, or in parts");
        if (item.kind == Item::Kind::point) {
            out_.points.push_back({map(item.at), layer, item.line});
        } else if (item.kind == Item::Kind::curve) {
            Curve curve = item.curve.transformed(map);
            if (curve.kind() == Curve::Kind::arc && !(norm(curve.axis_a()) > 0 && norm(curve.axis_b()) > 0)) {
                out_.ignored.emplace_back(item.line, "an arc has no radius");
                return;
            }
            if (!(curve.length() > 0)) {
                out_.ignored.emplace_back(item.line, "a line has no length");
                return;
            }
            out_.curves.push_back({std::move(curve), layer, item.line});
        } else {
            const auto block = blocks_.find(item.block);
            if (block == blocks_.end())
                damaged(file_, item.line, fmt::format("the block \"{}\" is inserted but not defined", item.block));
            if (depth >= deepest_insert)
                damaged(file_, item.line,
                        fmt::format("blocks are nested more than {} deep, or \"{}\" holds itself", deepest_insert,
                                    item.block));
            for (const auto& copy : item.copies) {
                count_visit(item.line);
                const Affine whole = map.after(copy.after(Affine::move(-block->second.base)));
                // Layer 0 in a block is the layer of its insert.
                for (const auto& inner : block->second.items)
                    place(inner, inner.layer == "0" ? layer : inner.layer, whole, depth + 1);
            }
        }
    }

    const Sifted& sifted_;
    const std::string& file_;
    DxfContent out_;
    Block top_;
    std::size_t visits_ = 0, copies_ = 0;
    std::map<std::string, Block> blocks_;
    Block* current_ = &top_;
    Item pending_;
    std::vector<Vertex> vertices_;
    bool in_polyline_ = false, polyline_closed_ = false, pending_mirrored_ = false;
    std::unique_ptr<Nurbs> spline_;
    std::vector<Vec2> fit_;
};

}  // namespace

DxfContent read_dxf(const std::string& text, const std::string& file) {
    const Sifted sifted = Sieve(text, file).run();
    Collector collector(sifted, file);
    std::istringstream stream(sifted.text);
    DL_Dxf reader;
    reader.in(stream, &collector);
    return collector.result();
}

}  // namespace dotsift
