// What is done with the pictures of a job.
import { useMutation, useQuery, useQueryClient } from '@tanstack/react-query'
import { answer, asItIs, server, writeKey, type Refused } from '../../api/client'
import type { Schemas } from '../../domain/schema'
import { useBench } from '../../domain/session'

export type Picture = Schemas['PictureView']

/** What a picture is of: a part or a step by its key; of neither, the box. */
export interface PictureOf {
  part?: string
  step?: string
}

const key = (job: number) => ['pictures', job]

export const usePictures = (job: number) =>
  useQuery({
    queryKey: key(job),
    queryFn: () => answer(server.GET('/api/jobs/{job_no}/pictures', { params: { path: { job_no: job } } })),
  })

export const pictureSrc = (job: number, picture: Picture, small: boolean) =>
  `/api/jobs/${job}/pictures/${picture.picture_no}${small ? '?small=true' : ''}`

export function useAddPicture(job: number) {
  const client = useQueryClient()
  const { who } = useBench()
  return useMutation<Picture[], Refused, { file: File; of: PictureOf; said?: string }>({
    mutationFn: ({ file, of, said }) =>
      answer(
        server.POST('/api/jobs/{job_no}/pictures', {
          params: {
            path: { job_no: job },
            query: { ...of, said, who },
            header: { 'Idempotency-Key': writeKey() },
          },
          ...asItIs(file),
        }),
      ),
    onSuccess: (fresh) => client.setQueryData(key(job), fresh),
  })
}

export function useMarkPicture(job: number) {
  const client = useQueryClient()
  const { who } = useBench()
  return useMutation<Picture[], Refused, { picture: Picture; struck: boolean }>({
    mutationFn: ({ picture, struck }) =>
      answer(
        server.POST('/api/jobs/{job_no}/pictures/{picture_no}/marks', {
          params: {
            path: { job_no: job, picture_no: picture.picture_no },
            header: { 'Idempotency-Key': writeKey() },
          },
          body: { struck, who },
        }),
      ),
    onSuccess: (fresh) => client.setQueryData(key(job), fresh),
  })
}
