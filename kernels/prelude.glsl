#version 450
// The GLSL side of the language that kernels are written in (prelude_cpp.h is the other side).

#define KERNEL
#define KERNEL_CONST const
#define IN(type) in type
#define INOUT(type) inout type

#define real float
#define rvec3 vec3
#define kuint uint
#define kmask bool
#define uni float
#define uni3 vec3
#define unint int
#define unuint uint
#define TABLE int

layout(std430, binding = 0) readonly buffer Tables { float tables[]; };

float sel(bool mask, float a, float b) { return mask ? a : b; }
vec3 sel3(bool mask, vec3 a, vec3 b) { return mask ? a : b; }
bool both(bool a, bool b) { return a && b; }
bool either(bool a, bool b) { return a || b; }
uint whole_quotient(uint a, uint by) { return a / by; }
uint to_kuint(float whole) { return uint(int(whole)); }
float to_real(uint small) { return float(small); }
vec3 every_lane(vec3 v) { return v; }
vec3 floor3(vec3 v) { return floor(v); }
bool any_lane(bool mask) { return mask; }
float signed_real(uint bits) { return float(int(bits)); }
float fetch(int table, float index) { return tables[table + int(index)]; }
void fetch_pair(int table, float index, inout float entry, inout float next)
{
    entry = tables[table + int(index)];
    next = tables[table + int(index) + 1];
}
float fetch_uni(int table, int index) { return tables[table + index]; }
