# ember_compile_whole_folders(TARGET [ALONE FILES...] PRECOMPILED HEADERS...)
#
# With EMBER_WHOLE_FOLDERS the files of each folder of a target are compiled together, folders of fewer than four in one
# go, so that what they include is read once: a whole build takes half the time, one after a change in one file somewhat
# longer. What is in a folder's unnamed namespaces therefore has names of its own. Files that read much which nobody else
# needs stay ALONE. Without it each file is compiled by itself, with the PRECOMPILED headers.

function(ember_compile_whole_folders target)
  cmake_parse_arguments(ARG "" "" "ALONE;PRECOMPILED" ${ARGN})
  if(NOT EMBER_WHOLE_FOLDERS)
    target_precompile_headers(${target} PRIVATE ${ARG_PRECOMPILED})
    return()
  endif()
  set_target_properties(${target} PROPERTIES UNITY_BUILD ON UNITY_BUILD_MODE GROUP)
  get_target_property(sources ${target} SOURCES)
  list(FILTER sources INCLUDE REGEX "^[a-z_/]+\\.cpp$")
  list(REMOVE_ITEM sources ${ARG_ALONE})
  set(folders "")
  foreach(source IN LISTS sources)
    cmake_path(GET source PARENT_PATH folder)
    string(REPLACE "/" "_" folder "all_${folder}")
    list(APPEND folders ${folder})
    list(APPEND files_${folder} ${source})
  endforeach()
  list(REMOVE_DUPLICATES folders)
  foreach(folder IN LISTS folders)
    list(LENGTH files_${folder} count)
    if(count LESS 4)
      set_source_files_properties(${files_${folder}} PROPERTIES UNITY_GROUP small)
    else()
      set_source_files_properties(${files_${folder}} PROPERTIES UNITY_GROUP ${folder})
    endif()
  endforeach()
endfunction()
