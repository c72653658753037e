# ember_sources_for_each_isa(TARGET NAMESPACES... SOURCES FILES...)
#
# Compiles the files once for each instruction set into `TARGET`, each time with EMBER_ISA set to the namespace that the
# result lands in: scalar (plain floats, not vectorised by the compiler: the reference), v2 (x86-64-v2), avx2 (AVX2+FMA).

set(EMBER_FLAGS_scalar -march=x86-64-v2 -DEMBER_SCALAR -fno-tree-vectorize -fno-tree-slp-vectorize)
set(EMBER_FLAGS_v2 -march=x86-64-v2)
set(EMBER_FLAGS_avx2 -march=x86-64-v2 -mavx2 -mfma -mf16c -ffp-contract=fast)

function(ember_sources_for_each_isa target)
  cmake_parse_arguments(ARG "" "" "NAMESPACES;SOURCES" ${ARGN})
  foreach(isa IN LISTS ARG_NAMESPACES)
    set(objects ${target}_${isa})
    add_library(${objects} OBJECT ${ARG_SOURCES})
    target_include_directories(${objects} PRIVATE ${PROJECT_SOURCE_DIR})
    set_target_properties(${objects} PROPERTIES POSITION_INDEPENDENT_CODE ON)
    target_compile_definitions(${objects} PRIVATE EMBER_ISA=${isa})
    # The kernels are built for speed in every preset: a debug build would be useless to an artist.
    target_compile_options(${objects} PRIVATE ${EMBER_FLAGS_${isa}} -O3 -fno-math-errno -fno-trapping-math)
    if(EMBER_SANITIZE)
      # What kernels have on the stack are registers that found no room: watching those would make a file twelve times
      # as slow to build, and many times as slow to run.
      target_compile_options(${objects} PRIVATE -O2
        $<IF:$<CXX_COMPILER_ID:Clang>,SHELL:-mllvm -asan-stack=0,--param=asan-stack=0>)
    endif()
    target_link_libraries(${objects} PRIVATE xsimd)
    target_sources(${target} PRIVATE $<TARGET_OBJECTS:${objects}>)
  endforeach()
endfunction()
